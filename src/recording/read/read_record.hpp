// Records from parsed lines.
#pragma once

#include "recording/read/code_line_in.hpp"
#include "recording/records.hpp"

#include <simdjson.h>

#include <algorithm>
#include <cstdint>
#include <limits>
#include <optional>
#include <string_view>
#include <utility>
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

[[nodiscard]] inline std::uint32_t number32(const simdjson::dom::element& from) {
    const std::uint64_t wide = from.get_uint64();
    if (wide > std::numeric_limits<std::uint32_t>::max()) {
        throw simdjson::simdjson_error(simdjson::NUMBER_OUT_OF_RANGE);
    }
    return static_cast<std::uint32_t>(wide);
}
// By value, so that they live as long as a loop over them.
[[nodiscard]] inline simdjson::dom::array items_of(const simdjson::dom::element& list) {
    return list.get_array(); // NOLINT(modernize-return-braced-init-list): that would be another type
}
[[nodiscard]] inline simdjson::dom::object object_in(const simdjson::dom::element& whole) {
    return whole.get_object(); // NOLINT(modernize-return-braced-init-list)
}

/// Visits a record once and takes the members that stand in the record's order,
/// from where it is on. `Parts` takes what does not become a member:
/// `turns(field, from)` and `payload(from)`.
template <class Parts>
class data_reading {
public:
    data_reading(const simdjson::dom::object& data, Parts& parts) : at_(data.begin()), end_(data.end()), parts_(parts) {
        look();
    }

    [[nodiscard]] bool is_over() const { return at_ == end_; }
    /// Whether something was taken since this was asked before.
    [[nodiscard]] bool has_moved() noexcept { return std::exchange(has_moved_, false); }
    void pass_over() {
        ++at_;
        look();
    }

    template <class Member>
    [[gnu::always_inline]] void operator()(const field& of, Member& member) {
        take(of, [&](const element& from) { read(from, member); });
    }
    void operator()(code_place& where) {
        (*this)(code_place::at_field, where.at);
        (*this)(code_place::by_field, where.by);
    }
    void operator()(turn_list&) {
        take_turns(turn_list::heard);
        take_turns(turn_list::missed);
        take_turns(turn_list::took);
    }
    void operator()(packed_payload&) {
        take(packed_payload::payload, [&](const element& from) { parts_.payload(from); });
    }
    void operator()(bytes_left_out& left_out) { (*this)(bytes_left_out::left_out, left_out.bytes); }

private:
    using element = simdjson::dom::element;

    template <class Take>
    [[gnu::always_inline]] void take(const field& of, Take take) {
        if (key_ == of.key) {
            take(at_.value());
            pass_over();
            has_moved_ = true;
        }
    }
    void take_turns(const field& of) {
        take(of, [&](const element& from) { parts_.turns(of, from); });
    }
    void look() { key_ = at_ != end_ ? at_.key() : std::string_view{}; } // no field is called that

    static void read(const element& from, bool& into) { into = from.get_bool(); }
    static void read(const element& from, std::uint32_t& into) { into = number32(from); }
    static void read(const element& from, std::uint64_t& into) { into = from.get_uint64(); }
    static void read(const element& from, std::string_view& into) { into = from.get_string(); }
    static void read(const element& from, std::optional<std::uint32_t>& into) { into = number32(from); }
    static void read(const element& from, std::optional<std::uint64_t>& into) { into = from.get_uint64().value(); }
    static void read(const element& from, std::string& into) { into = std::string_view(from.get_string()); }
    static void read(const element& from, code_line& into) { into = code_line_in(from.get_string()); }
    static void read(const element& from, waiting_kind& into) {
        const std::string_view name = from.get_string();
        const auto* const found = std::find(waiting_kinds.begin(), waiting_kinds.end(), name);
        if (found == waiting_kinds.end()) {
            throw simdjson::simdjson_error(simdjson::INCORRECT_TYPE);
        }
        into = static_cast<waiting_kind>(found - waiting_kinds.begin());
    }
    static void read(const element& from, std::vector<std::string>& into) {
        for (const element one : items_of(from)) {
            into.emplace_back(std::string_view(one.get_string()));
        }
    }
    static void read(const element& from, fact_list& into) {
        for (const auto& [name, fact] : object_in(from)) {
            into.emplace_back(name, fact.get_string());
        }
    }
    template <has_data T>
    void read(const element& from, std::vector<T>& into) {
        for (const element one : items_of(from)) {
            read_data(one, into.emplace_back(), parts_);
        }
    }

    simdjson::dom::object::iterator at_;
    simdjson::dom::object::iterator end_;
    std::string_view key_; ///< of the one at `at_`
    Parts& parts_;
    bool has_moved_ = false;
};

/// Takes the members of `data` that a record has, in any order; others are
/// passed over. Throws `simdjson_error` where one is of another type.
template <class Record, class Parts>
void read_data(const simdjson::dom::element& data, Record& into, Parts& parts) {
    data_reading<Parts> with(object_in(data), parts);
    while (!with.is_over()) {
        visit_data(into, with);
        if (!with.has_moved()) {
            with.pass_over();
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
