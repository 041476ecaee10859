// All that a ledger tells, as the lines of a recording, for readers that come late, too.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/stream/stream_memory.hpp"

#include <courier/gateway/gateway_options.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recorder.hpp>

#include <cstdint>
#include <functional>
#include <map>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What one who comes late has to know of the lines so far: the run, its channels and
/// live subscriptions, and the latest state.
class run_so_far {
public:
    /// What a line changes in that.
    void take(std::string_view line, std::vector<kept_message>& changed);

private:
    std::map<std::string, std::uint32_t, std::less<>> states_; ///< kinds of lines that tell a state, by type
};

/// A recording into the memory that readers have of a stream. What there is no room for is left out.
class run_stream {
public:
    run_stream(ledger& of, const gateway_options& options);

    void hand_over() { to_.hand_over(); }
    void close() { memory_.close(); }
    /// The ledger is gone.
    [[nodiscard]] bool is_over() const noexcept { return to_.over(); }
    [[nodiscard]] const stream_memory& memory() const noexcept { return memory_; }

private:
    void write(std::string_view lines);

    stream_memory memory_;
    run_so_far so_far_;
    recorder to_; ///< ends first
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
