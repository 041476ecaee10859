// Names for threads, so that a report of use from a foreign thread can be read.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Names the calling thread for messages; the name lasts as long as the thread.
void name_this_thread(std::string_view name);

namespace detail {

/// A number for the calling thread, never reused within a process.
[[nodiscard]] std::uint32_t this_thread_number() noexcept;

/// "thread 2 'loader'", also for a thread that has ended.
[[nodiscard]] std::string describe_thread(std::uint32_t number);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
