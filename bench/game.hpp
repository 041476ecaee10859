// A game beside which something goes on: its frames, and what carrying its payloads costs it.
#pragma once

#include "cores.hpp"
#include "paired.hpp"

#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>

#include <chrono>
#include <cstddef>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <memory>
#include <thread>
#include <vector>

namespace bench {

using clock_type = std::chrono::steady_clock;

struct Moved {
    int barge = 0;
    int to_go = 0;
    float x = 0;
    float y = 0;
    bool lit = false;
};

inline Moved moved(int i) {
    return {.barge = i, .to_go = 12, .x = 1.5F, .y = 2.5F, .lit = true};
}

/// Ends the bench when something does not come about within a minute.
template <class IsSo>
void wait_until(const char* what, IsSo is_so, std::chrono::microseconds pause = std::chrono::milliseconds(1)) {
    const auto end = clock_type::now() + std::chrono::minutes(1);
    while (!is_so()) {
        if (clock_type::now() > end) {
            std::fprintf(stderr, "waited a minute for %s\n", what);
            std::_Exit(1);
        }
        std::this_thread::sleep_for(pause);
    }
}

/// How often a frame does what.
struct frame_of {
    int publishes = 0;
    int work = 0; ///< multiplications with each
    std::chrono::milliseconds pause{1};
};

struct measured_frames {
    double median = 0;
    std::size_t count = 0;
};

/// What the game's thread spends on publishing to a channel whose payloads are carried, and on `take_in`, against
/// recording the same; frame by frame in turns.
inline measured_frames against_recording(courier::channel<Moved>& carried, const std::function<void()>& take_in,
                                         frame_of what, double seconds) {
    courier::channel<Moved> recorded{"barges.recorded"};
    courier::ledger night{"the night"};
    night.attach(recorded);
    const auto to_file = elsewhere([&] { return std::make_unique<courier::recorder>(night, "/dev/null"); });
    const courier::subscription one = recorded.subscribe([](const Moved&) { barrier(); });
    std::vector<double> ratios;
    const auto until = clock_type::now() + std::chrono::duration<double>(seconds);
    while (clock_type::now() < until) {
        double begun = thread_seconds();
        for (int i = 0; i < what.publishes; ++i) {
            recorded.publish(moved(i));
        }
        night.end_frame();
        const double recording = thread_seconds() - begun;
        begun = thread_seconds();
        for (int i = 0; i < what.publishes; ++i) {
            carried.publish(moved(i));
        }
        take_in();
        ratios.push_back((thread_seconds() - begun) / recording);
        std::this_thread::sleep_for(what.pause);
    }
    return {median(ratios), ratios.size()};
}

/// How long a frame takes that works and publishes; the median, in seconds.
inline double frame_time(courier::channel<Moved>& to, const std::function<void()>& take_in, frame_of what,
                         double seconds) {
    std::vector<double> times;
    const auto until = clock_type::now() + std::chrono::duration<double>(seconds);
    volatile float work = 1;
    while (clock_type::now() < until) {
        const auto begun = clock_type::now();
        for (int i = 0; i < what.publishes; ++i) {
            to.publish(moved(i));
            for (int k = 0; k < what.work; ++k) {
                work = work * 1.0001F + 0.1F;
            }
        }
        take_in();
        times.push_back(std::chrono::duration<double>(clock_type::now() - begun).count());
        std::this_thread::sleep_for(what.pause);
    }
    return median(times);
}

} // namespace bench
