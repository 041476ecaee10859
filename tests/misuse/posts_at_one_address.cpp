// expect: courier: this source cannot call this handler
#include "reef.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/subscriber.hpp>

int main() {
    courier::addressed_channel<Hailed, int> hailed{"hailed"};
    courier::subscriber in;
    in.subscribe(hailed.at(3), [](std::span<const courier::addressed_payload<Hailed, int>>) {});
}
