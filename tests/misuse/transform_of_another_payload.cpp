// expect: courier: this adaptor does not take the payload of the source before it
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::subscriber in;
    in.subscribe(moored | courier::transform([](const Bitten& b) { return b; }), [](const Moored&) {});
}
