// expect: courier: or_else needs a first wait that may come to nothing
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/sequence.hpp>
#include <courier/wait.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    auto wait = courier::or_else(courier::next(moored), [&] { return courier::next(moored); });
}
