// What is called, the same in all places, so that only the loops differ.
#pragma once

#include "../baselines.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

namespace bench {

void subscribe_aligned(courier::subscriber& in, const courier::channel<Bitten>& to, Barge& barge);
raw_entry aligned_listener(Barge& barge);

} // namespace bench
