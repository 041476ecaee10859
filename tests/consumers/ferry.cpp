// A game that sends to others, while no broker is there.
#include <courier/ferry/ferry.hpp>
#include <courier/state.hpp>

int main() {
    courier::state<int> crates{"harbour.crates", 35};
    courier::ferry over{{.process = "consumer", .port = 1, .ending = std::chrono::milliseconds(0)}};
    over.send(crates, "gannet/crates");
    crates.set(36);
    over.take_in();
    return over.run().size() == 16 && over.link().glance().phase == courier::link_phase::connecting ? 0 : 1;
}
