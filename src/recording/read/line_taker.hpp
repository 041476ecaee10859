// From parsed lines to a run: what each kind of line does to it.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/read/read_record.hpp"

#include <courier/recording/run_builder.hpp>

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <tuple>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The advice where a line cannot be what a recorder wrote.
inline constexpr const char* changed_or_damaged = "the file was changed or damaged; record again";

class line_taker {
public:
    line_taker(run& into, const read_options& options)
        : run_(into), keep_payloads_(options.payloads), joined_late_(options.joined_late) {}

    /// Throws `recording_error`, or `json_misfit` where something is of another type.
    void take(const parsed_line& line);

    /// Drops the oldest events, and what belongs to them only.
    void forget(std::size_t count);

    [[noreturn]] void fail(recording_code code, const std::string& what, const char* advice = changed_or_damaged) const;
    /// It is something else.
    [[noreturn]] void foreign() const;

    std::string source; ///< of the first line

    // What reading meets of an event, while it does; event_taker.cpp.
    void turns(const field& which, const json_node& from);
    void payload(const json_node& from);

private:
    class attributes;

    template <class Record>
    void take_as(const parsed_line& line);

    void join(const parsed_line& line);

    // What comes and goes; line_taker.cpp.
    void note(const recording_record& line);
    void note(const channel_record& line);
    void note(const closed_record& line);
    void note(const subscribed_record& line);
    void note(const ended_record& line);
    void note(const paused_record& line);
    void note(const resumed_record& line);
    void note(const party_ended_record& line);
    void note(const process_record& line);
    void note(const frame_record& line);
    void note(const waiting_record& line);
    void note(const systems_record& line);
    void note(const phases_record& line);
    void note(const refreshers_record& line);
    void note(const circles_record& line);
    void note(const orders_record& line);
    void note(const accepted_record& line);
    void note(const skipped_record& line);
    void note(const finished_record& line);
    std::uint32_t channel_of(std::uint32_t number, std::string_view name);
    recorded_subscription* subscription(std::uint32_t number);

    // Events; event_taker.cpp.
    void begin_event(const parsed_line& line);
    void note(const event_record& line);
    void note(const post_record& line);
    recorded_event made_by(const made_record& line);
    void take_heard(const json_node& from);
    void take_took(const json_node& from);
    void take_missed(const json_node& from);
    void note_stopped(const recorded_event& event);
    std::uint32_t maker_of(const recorded_event& event);
    publisher_books& publisher(const recorded_event& event);
    void count_publish(const recorded_event& event);
    void count_post(const recorded_event& event);
    std::uint32_t text(std::string_view plain, std::uint32_t& newest);
    [[nodiscard]] std::uint64_t number_in(std::string_view text) const;

    run& run_;
    bool keep_payloads_;
    bool joined_late_;
    recorded_event begun_;                                                  ///< the event whose line is being read
    std::unordered_map<std::uint32_t, std::uint32_t> channels_;             ///< by their number in the recording
    std::pair<std::uint32_t, std::uint32_t> newest_channel_{UINT32_MAX, 0}; ///< one of these
    std::vector<std::uint32_t> files_; ///< texts, by the text that is a line of code; 0: not known
    std::map<std::tuple<std::uint32_t, std::uint32_t, std::uint32_t>, std::size_t> publishers_;
    std::size_t newest_publisher_ = SIZE_MAX;
    std::vector<recorded_subscription*> quick_; ///< by number
    std::uint32_t newest_at_ = 0;
    std::uint32_t newest_by_ = 0;
    std::uint64_t newest_event_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
