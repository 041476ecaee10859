// What a ferry tells the game of its crossings.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// The way to the broker, as `ferry::link()` has it.
enum class link_phase : std::uint8_t {
    away,      ///< not yet, or not any more; it goes on trying
    there,     ///< payloads come and go: the broker knows what this process receives
    turned_off ///< for good: another process came with the same name, which takes `processes_topic` to be seen
};
struct link_condition {
    link_phase is = link_phase::away;
    std::string why; ///< it is away: "Connection refused"
    friend bool operator==(const link_condition&, const link_condition&) = default;
};

/// What becomes of another process.
enum class peer_news : std::uint8_t {
    came,
    left, ///< of its own accord
    died, ///< without a word, longer ago than `ferry_options::absence`
};
/// Published by `ferry::peers()`; for those that were there before, too.
struct peer_changed {
    std::string process;
    std::string run; ///< a process that comes back has another one
    peer_news is = peer_news::came;
};

/// Why a payload did not cross. Each has a stable text form, see `id_of()`.
enum class crossing_fault : std::uint8_t {
    away,           ///< the broker was, and at most once was promised; outwards
    no_room,        ///< the bound for what waits was reached; outwards
    file_full,      ///< the file for what waits could not take it, nor memory; outwards
    too_large,      ///< more than `largest_payload`, or than the broker takes
    not_allowed,    ///< the broker does not let this process send, or hear, it
    bad_address,    ///< it is no address of the channel, or too long for a topic
    bad_message,    ///< no CloudEvent, or neither JSON nor CBOR
    does_not_fit,   ///< the fields are others than the channel's
    arrivals_full,  ///< the game did not take it in soon enough; inwards, at most once
    missing,        ///< others of its sender came before and after it, and it did not
    bad_reply,      ///< a question whose answer would go elsewhere, or an answer to nothing
    too_many_asked, ///< questions wait already
};
inline constexpr std::size_t crossing_faults = 12;

/// Such as "courier.ferry.does-not-fit".
[[nodiscard]] std::string_view id_of(crossing_fault why) noexcept;

/// Published by `ferry::lost()`, at most once in a frame for each reason and topic.
struct payload_lost {
    crossing_fault why = crossing_fault::no_room;
    std::string topic;
    std::uint64_t times = 0;
    std::string what; ///< of the latest: which field does not fit, of what version on either side
};

WIRED_COURIER_NAMESPACE_END
