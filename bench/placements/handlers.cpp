#include "handlers.hpp"

namespace bench {

void subscribe_aligned(courier::subscriber& in, const courier::channel<Bitten>& to, Barge& barge) {
    in.subscribe(to, [b = &barge](const Bitten& e) { b->on_bitten(e); });
}

raw_entry aligned_listener(Barge& barge) {
    return {[](void* object, const Bitten& b) { static_cast<Barge*>(object)->on_bitten(b); }, &barge};
}

} // namespace bench
