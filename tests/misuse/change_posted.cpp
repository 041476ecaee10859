// expect: (use of deleted function|call to deleted constructor|deleted)
// within: 12 lines
#include "reef.hpp"

#include <courier/state.hpp>

int main() {
    courier::channel<courier::change<int>> changes{"changes"};
    courier::outbox later;
    courier::state<int> crates{"crates", 3};
    const auto s = crates.subscribe([&](const courier::change<int>& c) { later.post(changes, c); });
}
