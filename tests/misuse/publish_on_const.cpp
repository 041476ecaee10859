// expect: courier: a const channel can be subscribed to only
#include "reef.hpp"

#include <courier/channel.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::channel<Moored>& listen_only = moored;
    listen_only.publish({.boat = 3});
}
