// Records from parsed lines.
#pragma once

#include "recording/records.hpp"

#include <simdjson.h>

#include <cstdint>
#include <limits>
#include <optional>
#include <string_view>
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

/// Takes the members of `data` that a record knows; what it does not know is
/// passed over. `Parts` takes what does not become a member: `turns(field, from)`
/// and `payload(from)`. Throws `simdjson_error` where one is of another type.
template <class Parts>
class data_reading {
public:
    data_reading(std::string_view key, const simdjson::dom::element& from, Parts& parts) noexcept
        : key_(key), from_(from), parts_(parts) {}

    template <class Member>
    void operator()(const field& of, Member& member) {
        if (is(of)) {
            read(from_, member);
        }
    }
    void operator()(code_place& where) {
        (*this)(code_place::at_field, where.at);
        (*this)(code_place::by_field, where.by);
    }
    void operator()(turn_list&) {
        for (const field& of : {turn_list::heard, turn_list::missed, turn_list::took}) {
            if (is(of)) {
                parts_.turns(of, from_);
            }
        }
    }
    void operator()(packed_payload&) {
        if (is(packed_payload::payload)) {
            parts_.payload(from_);
        }
    }
    void operator()(bytes_left_out& left_out) { (*this)(bytes_left_out::left_out, left_out.bytes); }

private:
    using element = simdjson::dom::element;

    // Of one key at most.
    bool is(const field& of) noexcept {
        const bool found = !found_ && key_ == of.key;
        found_ = found_ || found;
        return found;
    }

    static void read(const element& from, bool& into) { into = from.get_bool(); }
    static void read(const element& from, std::uint32_t& into) { into = number32(from); }
    static void read(const element& from, std::uint64_t& into) { into = from.get_uint64(); }
    static void read(const element& from, std::string_view& into) { into = from.get_string(); }
    static void read(const element& from, std::optional<std::uint32_t>& into) { into = number32(from); }
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

    std::string_view key_;
    const element& from_;
    Parts& parts_;
    bool found_ = false;
};

template <class Record, class Parts>
void read_data(const simdjson::dom::element& data, Record& into, Parts& parts) {
    for (const auto& [key, member] : object_in(data)) {
        data_reading<Parts> with(key, member, parts);
        Record::data(into, with);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
