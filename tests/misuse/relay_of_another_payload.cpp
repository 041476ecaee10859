// expect: courier: what this relay forwards is not what its target carries
#include "reef.hpp"

int main() {
    courier::channel<Moored> from{"from"};
    courier::channel<Bitten> to{"to"};
    const courier::relay r{from, to};
}
