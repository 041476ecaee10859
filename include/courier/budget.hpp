// How much may be taken in or delivered before the rest has to wait.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/unbounded.hpp>

#include <cstddef>
#include <functional>

WIRED_COURIER_NAMESPACE_BEGIN

/// Written as `{.payloads = 100}`, or made by `time_budget()`. What does not
/// fit keeps its order and comes first the next time.
struct budget {
    /// This many payloads at most.
    std::size_t payloads = unbounded;

    /// Asked again and again; once it is true, the rest waits. By an outbox
    /// before each payload (before each 64, where handlers take spans), by an
    /// inbox before each 64. At least one payload is delivered, or up to 64 are
    /// taken in, each time, so that everything has its turn in the end.
    std::function<bool()> spent = {};

    /// Called each time something begins that has this budget, such as a
    /// frame's round.
    std::function<void()> begin = {};
};

WIRED_COURIER_NAMESPACE_END
