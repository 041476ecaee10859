// expect: courier: this poster.s target carries another payload type
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::outbox later;
    const courier::poster<Bitten> out{later, moored};
}
