// What records are made of.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/described.hpp"
#include "recording/limits.hpp"

#include <courier/detail/ledger/event_sink.hpp>

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline constexpr int recording_format = 1;

// Attributes of the line itself.
struct from_source {}; ///< `source`, a URI reference
struct own_id {};      ///< `id`, which other lines have their own line's number for
struct of_event {      ///< an event's number as text; left out where it is 0
    std::string_view key;
};
struct as_duration { ///< nanoseconds as an ISO 8601 duration
    std::string_view key;
};

/// The channel that a line is about: its number, and its name as `subject`. Packed by number.
struct channel_link {
    static constexpr std::string_view number_key = "channel";
    std::uint32_t number = 0;
    std::string_view name; ///< only of a line that was read
};
/// The same where its name is told.
struct new_channel {
    std::uint32_t number = 0;
    std::string_view name;
};

/// A line of code that publishes, and who publishes there: packed by number.
struct code_place {
    static constexpr field at_field{"at", "the line of code", always};
    static constexpr field by_field{"by", "the publisher's name"};
    std::uint32_t number = 0;
    std::string_view at; ///< only of a line that was read, as the next
    std::string_view by;
};

/// Whose turn came in a publish.
class turn_list {
public:
    static constexpr field heard{"heard", "the subscriptions that were served"};
    static constexpr field missed{"missed", "pairs: a subscription whose turn came without being served, and why"};
    static constexpr field took{"took", "pairs: a subscription and its handler's nanoseconds, where measured"};

    turn_list() = default;
    turn_list(const turn_note* first, std::size_t count) noexcept
        : turn_list(reinterpret_cast<const std::byte*>(first), count) {}
    turn_list(const std::byte* first, std::size_t count) noexcept
        : first_(first), count_(static_cast<std::uint32_t>(count)) {}

    [[nodiscard]] std::uint32_t size() const noexcept { return count_; }
    [[nodiscard]] const std::byte* bytes() const noexcept { return first_; }
    [[nodiscard]] turn_note operator[](std::size_t i) const noexcept {
        turn_note one;
        std::memcpy(&one, first_ + i * sizeof one, sizeof one); // packed ones are not aligned
        return one;
    }

private:
    static_assert(std::is_trivially_copyable_v<turn_note>);
    const std::byte* first_ = nullptr;
    std::uint32_t count_ = 0;
};

inline constexpr std::uint32_t no_schema = UINT32_MAX;        ///< the fields are not known
inline constexpr std::uint32_t empty_schema = UINT32_MAX - 1; ///< there are none

/// A schema's number and the values; nothing at all where it is not known.
struct packed_payload {
    static constexpr field payload{"payload", "its fields by name, where they are known"};
    const std::byte* first = nullptr;
    std::size_t size = 0;
};

/// Instead of turns and payload, where they would make too long a line.
struct bytes_left_out {
    static constexpr field left_out{"left_out",
                                    "how many bytes `heard`, `missed`, `took` and `payload` would have had, "
                                    "over 8 MiB"};
    std::uint64_t bytes = 0; ///< only of a line that was read
};

using fact_list = std::vector<std::pair<std::string_view, std::string_view>>;

template <class Record>
concept has_attributes = requires(Record& one, int& with) { Record::attributes(one, with); };

template <class Record, class With>
void visit_record(Record& one, With& with) {
    if constexpr (has_attributes<Record>) {
        Record::attributes(one, with);
    }
    if constexpr (has_data<Record>) {
        visit_data(one, with);
    }
}

template <class... Record>
struct record_kinds {
    /// The number of a kind, as packed.
    template <class One>
    static constexpr std::uint8_t code = [] {
        std::uint8_t at = 0;
        static_cast<void>(((std::is_same_v<One, Record> || (++at, false)) || ...));
        return at;
    }();

    /// Calls `with` with each kind until one returns true; whether one did.
    template <class With>
    static bool any(With&& with) {
        return (with(std::type_identity<Record>{}) || ...);
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
