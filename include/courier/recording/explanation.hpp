// Why something happened, and why something did not.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <cstdint>
#include <span>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// An event and all that led to it, the first cause first. What a recording
/// does not hold any more is left out.
[[nodiscard]] std::vector<const recorded_event*> chain_of(const run& of, const recorded_event& event);

/// An event of one of several recordings.
struct event_of {
    const run* of = nullptr;
    const recorded_event* event = nullptr;
};

/// Goes through the recordings of several processes: an event that came in from
/// another one was caused by one there (see courier/ferry/ferry.hpp). Runs are known by
/// what they say of their process. Where that recording is not among them, or does not
/// hold the event, the chain begins.
[[nodiscard]] std::vector<event_of> chain_across(std::span<const run> all, event_of last);

/// Where an event came from, if that is another process; else null.
[[nodiscard]] const recorded_origin* origin_of(const run& of, const recorded_event& event);

/// Why a payload did not reach somebody.
enum class unheard_reason : std::uint8_t {
    nobody_published,  ///< in those frames
    waits_in_outbox,   ///< it was posted, and not delivered
    combined,          ///< a post went into another one
    turned_away,       ///< an outbox was full
    nobody_subscribed, ///< it, or nobody at all, never was
    not_yet,           ///< it subscribed later
    no_longer,         ///< it had left
    channel_ended,     ///< its subscription went with an earlier channel of that name
    paused,
    asleep, ///< what its subscriber follows was
    outside_period,
    condition,
    filtered,
    stopped,       ///< by a verdict
    other_address, ///< it was for somebody else
    too_deep,      ///< the publish was refused
    failed,        ///< it was called, and threw
    not_recorded,  ///< who heard was left out of the recording
};

/// For people: "paused".
[[nodiscard]] std::string text_of(unheard_reason why);

/// One unheard_reason, for all events that it held up.
struct reason_found {
    unheard_reason why;
    std::uint64_t events = 0;
    std::uint64_t example = 0; ///< an event; 0: none
    std::uint32_t frame = 0;   ///< of the example, or from when on
    std::string where;         ///< a line of code
    std::string more;          ///< such as who stopped it
};

/// The fate of one party's payloads on a channel.
struct why_not_answer {
    std::string channel;
    std::string party; ///< empty: anybody
    std::uint32_t first_frame = 0;
    std::uint32_t last_frame = UINT32_MAX;
    std::uint64_t published = 0;       ///< in those frames
    std::uint64_t heard = 0;           ///< of these
    std::uint64_t first_heard = 0;     ///< an event; 0: none
    std::vector<reason_found> reasons; ///< the most frequent first
    std::uint32_t before = UINT32_MAX; ///< the newest frame with a publish before those frames; UINT32_MAX: none
    std::uint32_t after = UINT32_MAX;  ///< the next one after them
};

/// Looks at the payloads on `filter.channel` in its frames, and which of
/// them reached `filter.party`.
[[nodiscard]] why_not_answer why_not(const run& of, const run_filter& filter);

/// Follows the path to the place where it broke: where nothing was published in those
/// frames, the next answer is that of the party whose handler published there most often at
/// other times, for the channel that it published in answer to; and so on, for 16 steps at most.
[[nodiscard]] std::vector<why_not_answer> why_not_path(const run& of, const run_filter& filter);

/// For people: a line for each fact. Lines that begin with a space belong to the one before.
[[nodiscard]] std::vector<std::string> in_words(const why_not_answer& answer);
/// Step by step, from the party that was asked about to the place where the path broke.
[[nodiscard]] std::vector<std::string> in_words(const std::vector<why_not_answer>& path);

/// A chain in one sentence: "watch published weather.flashed in frame 3, so horn published
/// horn.sounded; lamp and 'watch board' heard it". Of long ones the middle is left out.
[[nodiscard]] std::string in_a_sentence(const run& of, const std::vector<const recorded_event*>& chain);

WIRED_COURIER_NAMESPACE_END
