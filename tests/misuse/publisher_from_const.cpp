// expect: courier: a const channel can be subscribed to only
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::channel<Moored>& listen_only = moored;
    const courier::publisher<Moored> barge{listen_only, "barge"};
}
