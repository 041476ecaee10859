// expect: courier: a const channel can be subscribed to only
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/poster.hpp>
#include <courier/outbox.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    const courier::channel<Moored>& listen_only = moored;
    courier::outbox later;
    const courier::poster<Moored> out{later, listen_only};
}
