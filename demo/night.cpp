#include "night.hpp"

#include "reef_night.hpp"

#include <courier/ledger.hpp>
#include <courier/wiring/wiring.hpp>

#include <vector>

namespace reef {

namespace {

std::vector<channel_sums> sums_of(const courier::books& all) {
    std::vector<channel_sums> sums;
    for (const courier::channel_books& c : all.channels) {
        if (c.published != 0) {
            sums.push_back(
                {c.name, c.published, c.deliveries, c.unheard, c.stopped, c.payload.starts_with("courier::")});
        }
    }
    return sums;
}

} // namespace

courier::catalogue night_catalogue() {
    night_log log([](const log_line&) {});
    const reef_night night(night_options{}, log);
    courier::catalogue all = night.wires().catalogue();
    all.targets.push_back({"north bell", "bell"}); // it comes in mid-night
    return all;
}

night_result run_night(const night_options& options, const night_log::line_sink& sink, const night_observer& observer) {
    courier::ledger overseer("gannet reef", {.order_seed = options.order_seed});
    if (observer.begin) {
        observer.begin(overseer);
    }
    overseer.attach_everything();
    night_log log(sink);
    reef_night night(options, log);
    for (int frame = 0; frame < options.frames; ++frame) {
        night.step(frame);
    }
    if (observer.end) {
        observer.end();
    }
    return {.channels = sums_of(overseer.read()),
            .heard_nothing = log.heard_nothing(),
            .wires = night.wires().wires(),
            .board = night.board(),
            .orders_open = night.orders_open()};
}

} // namespace reef
