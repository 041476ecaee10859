// expect: courier: a const channel can be subscribed to only
#include "reef.hpp"

#include <courier/addressed_channel.hpp>

int main() {
    courier::addressed_channel<Hailed> hailed{"hailed"};
    const courier::addressed_channel<Hailed>& listen_only = hailed;
    listen_only.publish_to(3, {.hand = 3});
}
