// In a file of its own, so that the compiler cannot call the reaction directly
// where it is published.
#include "baselines.hpp"

namespace bench {

raw_entry raw_listener(Barge& barge) {
    return {[](void* object, const Bitten& b) { static_cast<Barge*>(object)->on_bitten(b); }, &barge};
}

namespace {

struct barge_listener final : listener {
    explicit barge_listener(Barge& b) : barge(b) {}
    void on_bitten(const Bitten& b) override { barge.on_bitten(b); }
    Barge& barge;
};

} // namespace

std::unique_ptr<listener> virtual_listener(Barge& barge) {
    return std::make_unique<barge_listener>(barge);
}

std::function<void(const Bitten&)> function_listener(Barge& barge) {
    return [&barge](const Bitten& b) { barge.on_bitten(b); };
}

} // namespace bench
