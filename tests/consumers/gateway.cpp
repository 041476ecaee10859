// A game that others look at.
#include <courier/gateway/gateway.hpp>
#include <courier/state.hpp>

int main() {
    courier::state<int> crates{"harbour.crates", 35};
    courier::gateway out{{.name = "consumer"}};
    out.show(crates);
    crates.set(36);
    out.take_in();
    return out.address().starts_with("http://127.0.0.1:") && out.token().size() == 32 ? 0 : 1;
}
