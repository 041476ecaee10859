// Records from parsed lines.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/read/code_line_in.hpp"
#include "recording/read/line_json.hpp"
#include "recording/records.hpp"

#include <courier/detail/base/enum_names.hpp>

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string_view>
#include <type_traits>
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
    std::uint32_t channel = UINT32_MAX; ///< its number; UINT32_MAX: none is named
    json_node data;
    bool has_data = false;
};

/// Visits a record once and takes the members that stand in the record's order,
/// from where it is on. `Parts` takes what does not become a member:
/// `turns(field, from)` and `payload(from)`.
template <class Parts>
class data_reading {
public:
    data_reading(json_cursor data, Parts& parts) : at_(data), parts_(parts) { look(); }

    [[nodiscard]] bool is_over() const { return at_.is_over(); }
    /// Whether something was taken since this was asked before.
    [[nodiscard]] bool has_moved() noexcept { return std::exchange(has_moved_, false); }
    void pass_over() {
        at_.next();
        look();
    }

    template <class Member>
    [[gnu::always_inline]] void operator()(const field& of, Member& member) {
        take(of, [&](const json_node& from) { read(from, member); });
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
        take(packed_payload::payload, [&](const json_node& from) { parts_.payload(from); });
    }
    void operator()(bytes_left_out& left_out) { (*this)(bytes_left_out::left_out, left_out.bytes); }

private:
    template <class Take>
    [[gnu::always_inline]] void take(const field& of, Take take) {
        if (key_ == of.key) {
            take(at_.value());
            pass_over();
            has_moved_ = true;
        }
    }
    void take_turns(const field& of) {
        take(of, [&](const json_node& from) { parts_.turns(of, from); });
    }
    void look() { key_ = !at_.is_over() ? at_.key() : std::string_view{}; } // no field is called that

    static void read(const json_node& from, bool& into) { into = from.truth(); }
    static void read(const json_node& from, std::uint32_t& into) { into = number32(from); }
    static void read(const json_node& from, std::uint64_t& into) { into = from.number(); }
    static void read(const json_node& from, std::string_view& into) { into = from.text(); }
    static void read(const json_node& from, std::optional<std::uint32_t>& into) { into = number32(from); }
    static void read(const json_node& from, std::optional<std::uint64_t>& into) { into = from.number(); }
    static void read(const json_node& from, std::string& into) { into = from.text(); }
    static void read(const json_node& from, code_line& into) { into = code_line_in(from.text()); }
    template <class Enum>
        requires std::is_enum_v<Enum>
    static void read(const json_node& from, Enum& into) {
        const std::string_view name = from.text();
        const auto* const found = std::find(enum_names<Enum>.begin(), enum_names<Enum>.end(), name);
        if (name.empty() || found == enum_names<Enum>.end()) {
            throw_misfit();
        }
        into = static_cast<Enum>(found - enum_names<Enum>.begin());
    }
    static void read(const json_node& from, std::vector<std::string>& into) {
        from.each_item([&](const json_node& one) { into.emplace_back(one.text()); });
    }
    static void read(const json_node& from, fact_list& into) {
        for (json_cursor all(from); !all.is_over(); all.next()) {
            into.emplace_back(all.key(), all.value().text());
        }
    }
    template <has_data T>
    void read(const json_node& from, std::vector<T>& into) {
        from.each_item([&](const json_node& one) { read_data(one, into.emplace_back(), parts_); });
    }

    json_cursor at_;
    std::string_view key_; ///< of the one at `at_`
    Parts& parts_;
    bool has_moved_ = false;
};

/// Takes the members of `data` that a record has, in any order; others are
/// passed over. Throws `json_misfit` where one is of another type.
template <class Record, class Parts>
void read_data(const json_node& data, Record& into, Parts& parts) {
    data_reading<Parts> with(json_cursor(data), parts);
    while (!with.is_over()) {
        visit_data(into, with);
        if (!with.has_moved()) {
            with.pass_over();
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
