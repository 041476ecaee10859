// The way from a ferry to its broker.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// How far a ferry is with its broker.
enum class link_phase : std::uint8_t {
    connecting, ///< not connected yet, or not any more; the ferry keeps trying
    connected,  ///< payloads come and go: the broker knows what this process receives
    displaced,  ///< for good: another process came with the same name, which takes `processes_topic` to be seen
};

/// The value of `ferry::link()`.
struct link_condition {
    link_phase phase = link_phase::connecting;
    std::string why; ///< why it is not connected: "Connection refused"
    friend bool operator==(const link_condition&, const link_condition&) = default;
};

WIRED_COURIER_NAMESPACE_END
