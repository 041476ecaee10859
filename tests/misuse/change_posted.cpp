// expect: (use of deleted function|call to deleted constructor|deleted)
// except: the standard library stores what is posted, and says much about what cannot be copied
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/outbox.hpp>

#include <courier/state.hpp>

int main() {
    courier::channel<courier::change<int>> changes{"changes"};
    courier::outbox later;
    courier::state<int> crates{"crates", 3};
    const auto s = crates.subscribe([&](const courier::change<int>& c) { later.post(changes, c); });
}
