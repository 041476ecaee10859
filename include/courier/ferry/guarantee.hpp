// Guarantees for payloads that travel between processes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// How often a payload arrives that was sent while both sides were known to the
/// broker. docs/processes.md says which fits which payload, and the limits of all three.
enum class guarantee : std::uint8_t {
    /// Nothing waits for a broker that is away, and nothing is sent twice (QoS 0 of MQTT).
    at_most_once,
    /// It is sent until the broker has it (QoS 1), and may then come more than once.
    at_least_once,
    /// As `at_least_once`, and the receiver recognises by its id a payload that it had.
    exactly_once,
};

/// How a payload is written.
enum class encoding : std::uint8_t {
    json,
    cbor, ///< RFC 8949; about half the bytes
};

WIRED_COURIER_NAMESPACE_END
