#include "live_nights.hpp"

#include "reef_night.hpp"

#include <courier/gateway/gateway.hpp>
#include <courier/ledger.hpp>

#include <chrono>
#include <thread>

namespace reef {

namespace {

using clock = std::chrono::steady_clock;

/// Waits for the next frame, and lets what has come from outside happen meanwhile.
void wait_until(clock::time_point next, courier::gateway& out, const std::atomic<bool>& over) {
    constexpr std::chrono::milliseconds step{15};
    out.take_in();
    while (clock::now() < next && !over) {
        std::this_thread::sleep_until(std::min(next, clock::now() + step));
        out.take_in();
    }
}

} // namespace

void run_live(const live_options& options, const std::atomic<bool>& over,
              const std::function<void(const std::string& page, const std::string& top)>& started) {
    courier::ledger overseer("gannet reef", {.order_seed = options.night.order_seed});
    courier::gateway out({.port = options.port, .name = "gannet reef", .folder = options.folder});
    overseer.attach_everything();
    out.show(overseer);
    started(out.page_address(), out.address() + "#token=" + out.token());
    const clock::duration step = std::chrono::nanoseconds(std::chrono::seconds(1)) / options.frames_a_second;
    for (night_options night = options.night; !over; ++night.seed) {
        night_log log([](const log_line&) {});
        reef_night reef(night, log);
        reef.open(out);
        auto next = clock::now();
        for (int frame = 0; frame < night.frames && !over; ++frame) {
            reef.step(frame);
            wait_until(next += step, out, over);
        }
    }
}

} // namespace reef
