// expect: courier: this relay forwards another payload than its target carries
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/relay.hpp>

int main() {
    courier::channel<Moored> from{"from"};
    courier::channel<Bitten> to{"to"};
    const courier::relay r{from, to};
}
