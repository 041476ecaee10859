// How much may be delivered before the rest has to wait.
#pragma once

#include <courier/config.hpp>

#include <chrono>
#include <cstddef>
#include <functional>
#include <limits>

namespace courier::inline WIRED_COURIER_ABI {

/// Written as `{.payloads = 100}`, or made by `time_budget()`. What does not
/// fit keeps its order and is delivered first the next time.
struct budget {
    /// This many payloads at most.
    std::size_t payloads = std::numeric_limits<std::size_t>::max();

    /// Asked before each payload (before each 64, where handlers take spans);
    /// once it is true, the rest waits. At least one payload is delivered each
    /// time, so that everything has its turn in the end.
    std::function<bool()> spent = {};
};

/// So much time, by the clock on the wall: what is delivered then may differ
/// from run to run.
inline budget time_budget(std::chrono::nanoseconds most) {
    return {.spent = [until = std::chrono::steady_clock::now() + most] {
        return std::chrono::steady_clock::now() >= until;
    }};
}

} // namespace courier::inline WIRED_COURIER_ABI
