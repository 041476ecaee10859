// expect: courier: a const channel can be subscribed to only
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/publisher.hpp>

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const courier::channel<Moored>& listen_only = moored;
    const courier::publisher<Moored> barge{listen_only, "barge"};
}
