// What a ferry did not do, and why.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/coded_fault.hpp>
#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`. Payloads are lost for one of the first
/// `ferry_losses`; the others are thrown.
enum class ferry_code : std::uint8_t {
    away,           ///< the broker was away, and the payload was sent at most once; outwards
    no_room,        ///< the bound for what waits was reached; outwards
    file_full,      ///< neither the waiting file nor memory could take it; outwards
    too_large,      ///< more than `largest_payload`, or than the broker takes
    not_allowed,    ///< the broker does not let this process send or receive it
    bad_address,    ///< not an address of the channel, or too long for a topic
    bad_message,    ///< not a CloudEvent, or neither JSON nor CBOR
    does_not_fit,   ///< the fields are not the channel's
    arrivals_full,  ///< the game did not take it in soon enough; inwards, at most once
    missing,        ///< others of its sender came before and after it, and it did not
    bad_reply,      ///< a question whose answer would go elsewhere, or an answer to nothing
    too_many_asked, ///< too many questions wait already
    bad_file,       ///< certificates or the waiting file cannot be read
    bad_option,     ///< an option of `ferry_options` has a value it cannot have
    bad_name,       ///< not a name for a process or a share
    bad_topic,      ///< not a topic, or not one for this channel
    bad_payload,    ///< a payload that cannot be filled from outside
};

WIRED_COURIER_ENUM_AS(ferry_code, away, "courier.ferry.away", no_room, "courier.ferry.no-room", file_full,
                      "courier.ferry.file-full", too_large, "courier.ferry.too-large", not_allowed,
                      "courier.ferry.not-allowed", bad_address, "courier.ferry.bad-address", bad_message,
                      "courier.ferry.bad-message", does_not_fit, "courier.ferry.does-not-fit", arrivals_full,
                      "courier.ferry.arrivals-full", missing, "courier.ferry.missing", bad_reply,
                      "courier.ferry.bad-reply", too_many_asked, "courier.ferry.too-many-asked", bad_file,
                      "courier.ferry.bad-file", bad_option, "courier.ferry.bad-option", bad_name,
                      "courier.ferry.bad-name", bad_topic, "courier.ferry.bad-topic", bad_payload,
                      "courier.ferry.bad-payload")

/// How many codes stand for lost payloads.
inline constexpr std::size_t ferry_losses = 12;

/// Such as "courier.ferry.does-not-fit".
[[nodiscard]] std::string_view id_of(ferry_code code) noexcept;

using ferry_fault = coded_fault<ferry_code>;

/// Thrown by a ferry that cannot be made, and for topics and payloads that cannot be carried.
using ferry_error = coded_error<ferry_code>;

/// Published by `ferry::lost()`, at most once in a frame for each code and topic.
struct payloads_lost {
    ferry_code code = ferry_code::no_room;
    std::string what; ///< of the latest: which field does not fit, which version either side has
    std::string topic;
    std::uint64_t times = 0;
};

WIRED_COURIER_NAMESPACE_END
