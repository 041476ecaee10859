// What this program is called by others, for its recordings.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct process_name {
    std::string process;
    std::string run; ///< which of its runs this is
};

/// Enters a name, from any thread; the same again changes nothing. Names stay, since
/// recordings refer to them.
void know_process(process_name name);
[[nodiscard]] std::vector<process_name> known_processes();
/// How many there are; may be asked often.
[[nodiscard]] std::uint32_t known_process_count() noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
