// expect: courier: a const channel can be subscribed to only
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Dawn> dawn{"watch.dawn"};
    const courier::channel<Dawn>& listen_only = dawn;
    listen_only.publish();
}
