// How an event that crosses says which it is, and what it belongs to.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A trace of W3C's trace context: 16 bytes.
struct trace_id {
    std::uint64_t high = 0;
    std::uint64_t low = 0;
    [[nodiscard]] bool is_set() const noexcept { return high != 0 || low != 0; }
};

/// The `id` of a CloudEvent: "RUN-ROUTE-NUMBER-EVENT", such as
/// "5f3e9a12c0ffee00-n2-1041-57".
struct crossing_id {
    std::string_view run;     ///< 16 hexadecimal digits: which life of its process sent it
    bool is_gapless = false;  ///< 'n': numbers of this route all go to one topic; else 'g'
    std::uint32_t route = 0;  ///< of that process
    std::uint64_t number = 0; ///< on that route, from 1 on
    std::uint64_t event = 0;  ///< in the sender's recording; 0: not known

    [[nodiscard]] std::string text() const;
};

/// Nothing where it is none. Refers to `text`.
[[nodiscard]] std::optional<crossing_id> read_crossing_id(std::string_view text);

/// `traceparent` of W3C's trace context, level 1: the trace, and the event in it.
[[nodiscard]] std::string traceparent_of(trace_id trace, std::uint64_t run, std::uint64_t event);
/// The trace; not set where the text is none.
[[nodiscard]] trace_id trace_in(std::string_view traceparent);

/// A run of this process: a number that no other has.
[[nodiscard]] std::uint64_t new_run();
[[nodiscard]] std::string run_text(std::uint64_t run);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
