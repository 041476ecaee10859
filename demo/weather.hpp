// The weather: makes up its mind on a thread of its own.
#pragma once

#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <atomic>
#include <cstdint>
#include <functional>
#include <semaphore>
#include <string_view>
#include <thread>

namespace reef {

/// Takes the place of the weather's thread, for example to repeat a recorded night.
struct lightning_source {
    std::function<void(std::string_view channel, const courier::inlet<Flashed>& into)> feed; ///< called once
    std::function<void()> step;                                                              ///< in every frame
};

class weather {
public:
    /// With `lightning`, which must outlive this, there is no thread. Lightning comes in by
    /// the inbox; thunder follows when its time has come.
    weather(std::uint64_t seed, courier::inbox& arrivals, courier::timetable& hours, courier::outbox& later,
            night_log& log, const lightning_source* lightning = nullptr);
    weather(const weather&) = delete;
    weather& operator=(const weather&) = delete;
    ~weather();

    [[nodiscard]] const courier::channel<Flashed>& flashed() const { return flashed_; }
    [[nodiscard]] const courier::channel<Thundered>& thundered() const { return thundered_; }

    /// Lets the source or the thread do one frame, and waits for it, so that a night can be repeated.
    void step(bool storm);

private:
    void work(dice chance, const courier::inlet<Flashed>& out);

    const lightning_source* lightning_; ///< null: the thread
    courier::channel<Flashed> flashed_{"weather.flashed"};
    courier::channel<Thundered> thundered_{"weather.thundered"};
    courier::poster<Thundered> thunder_;
    courier::subscriber in_{"weather"};
    std::atomic<bool> storm_{false};
    std::atomic<bool> over_{false};
    std::binary_semaphore go_{0};
    std::binary_semaphore done_{0};
    std::thread worker_; ///< last, so that everything it needs is there
};

} // namespace reef
