// expect: courier: this relay forwards another payload than its target carries, or to an address
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/relay.hpp>

int main() {
    courier::channel<Moored> from{"from"};
    courier::channel<Bitten> to{"to"};
    const courier::relay r{from, to, [](const Moored& m) {
                               return courier::for_address<int, Bitten>{m.boat, {.barge = 1}};
                           }};
}
