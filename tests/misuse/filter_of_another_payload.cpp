// expect: courier: filter and transform take a function of the payload
// within: 12 lines
#include "reef.hpp"

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::subscriber in;
    in.subscribe(moored | courier::filter([](const Bitten& b) { return b.barge > 1; }), [](const Moored&) {});
}
