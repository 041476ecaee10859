// expect: courier: this poster.s target carries another payload type
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/poster.hpp>
#include <courier/outbox.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::outbox later;
    const courier::poster<Bitten> out{later, moored};
}
