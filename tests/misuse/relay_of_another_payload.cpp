// expect: courier: this relay forwards another payload than its target carries
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> from{"from"};
    courier::channel<Bitten> to{"to"};
    const courier::relay r{from, to};
}
