// From parsed lines to a run: what each kind of line does to it.
#pragma once

#include "recording/record_codes.hpp"

#include <courier/recording/run.hpp>

#include <simdjson.h>

#include <cstdint>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One line, with what most have in common.
struct parsed_line {
    std::string_view id;
    std::string_view type; ///< without its prefix
    std::string_view cause;
    std::string_view subject;
    std::string_view time;
    std::uint64_t frame = 0;
    simdjson::dom::element data;
    bool has_data = false;
};

class line_taker {
public:
    line_taker(run& into, bool keep_payloads) : run_(into), keep_payloads_(keep_payloads) {}

    /// Throws `recording_error`, or `simdjson_error` where something is of another type.
    void take(const parsed_line& line);

    [[noreturn]] void fail(recording_fault code, const std::string& what) const;
    /// It is something else.
    [[noreturn]] void foreign() const;

    std::string source; ///< of the first line

private:
    using object = simdjson::dom::object;
    using value = simdjson::dom::element;

    // What comes and goes; line_taker.cpp.
    void take_bare(const parsed_line& line);
    void take_recording(object data);
    void take_channel(std::string_view name, object data);
    void take_subscribed(std::string_view channel, object data);
    void take_ended(object data);
    void take_paused(bool is_paused, object data);
    void take_frame(std::string_view time);
    void take_waiting(object data);
    std::uint32_t channel_of(std::string_view name);
    recorded_subscription* subscription(std::uint32_t number);

    // Events; event_taker.cpp.
    void take_event(const parsed_line& line);
    void take_of_event(recorded_event& event, std::string_view key, const value& from);
    void take_flag(recorded_event& event, std::string_view key, const value& from);
    void take_heard(const value& from);
    void take_took(const value& from);
    void take_missed(const value& from);
    void note_stopped(const recorded_event& event);
    std::uint32_t text(const value& from, std::uint32_t& newest);
    [[nodiscard]] std::uint64_t number_in(std::string_view text) const;

    run& run_;
    bool keep_payloads_;
    std::unordered_map<std::uint32_t, std::uint32_t> channels_; ///< by the number of their name
    std::vector<std::uint64_t> published_;                      ///< by channel
    std::vector<recorded_subscription*> quick_;                 ///< by number
    std::uint32_t newest_channel_ = UINT32_MAX;
    std::uint32_t newest_at_ = 0;
    std::uint32_t newest_by_ = 0;
    std::uint64_t newest_event_ = 0;
};

// By value, so that they live as long as a loop over them.
inline simdjson::dom::array items_of(const simdjson::dom::element& list) {
    return list.get_array(); // NOLINT(modernize-return-braced-init-list): that would be another type
}
inline simdjson::dom::object object_in(const simdjson::dom::element& whole) {
    return whole.get_object(); // NOLINT(modernize-return-braced-init-list)
}
inline std::uint32_t number32(const simdjson::dom::element& from) {
    return static_cast<std::uint32_t>(from.get_uint64().value());
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
