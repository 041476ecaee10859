// expect: courier: a const channel can be subscribed to only
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    const courier::channel<Dawn>& listen_only = dawn;
    listen_only.publish();
}
