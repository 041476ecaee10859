// expect: courier: a const channel can be subscribed to only
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"moored"};
    const courier::channel<Moored>& listen_only = moored;
    courier::outbox later;
    const courier::poster<Moored> out{later, listen_only};
}
