// expect: courier: this relay.s change names an address
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> from{"from"};
    courier::channel<Bitten> to{"to"};
    const courier::relay r{from, to, [](const Moored& m) {
                               return courier::for_address<int, Bitten>{m.boat, {.barge = 1}};
                           }};
}
