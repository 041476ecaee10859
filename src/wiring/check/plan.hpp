// Wiring that has been checked: every name found, every value of its type.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/text/data.hpp"

#include <courier/wiring/catalogue.hpp>

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Which field of a field of ... a struct, by their numbers.
struct field_path {
    static constexpr std::size_t deepest = 12; ///< catalogues go less deep
    std::array<std::uint16_t, deepest> steps{};
    std::uint16_t size = 0;
    const value_shape* shape = nullptr; ///< what is there, in the catalogue

    void add(std::size_t step) { steps[size++] = static_cast<std::uint16_t>(step); }
};

/// What a wire says, in so few bits that two are taken for the same only if they are.
struct wire_print {
    std::uint64_t high = 0;
    std::uint64_t low = 0;
    friend bool operator==(const wire_print&, const wire_print&) = default;
};
struct wire_print_hash {
    std::size_t operator()(const wire_print& print) const noexcept { return print.low; }
};

/// A value of a simple kind; durations in seconds, enumerations by their number in
/// the list of values.
struct constant {
    bool truth = false;
    std::int64_t integer = 0;
    std::uint64_t natural = 0;
    double real = 0;
    std::string text;
};

enum class test_op : std::uint8_t { equal, not_equal, below, at_most, above, at_least, one_of };

struct condition_plan {
    std::string state; ///< empty: it is about the payload
    field_path field;  ///< of a state: none
    test_op op = test_op::equal;
    std::vector<constant> values; ///< one, or several for `one_of`
};

enum class value_origin : std::uint8_t { constant, field, state, answer, why, text };

/// Where a value comes from.
struct value_plan {
    value_origin from = value_origin::constant;
    constant value;
    std::string state;
    field_path field;               ///< of the payload or the answer; of a state only its shape
    double factor = 1;              ///< numbers are multiplied by it
    int decimals = -1;              ///< of numbers in texts; -1: as many as there are
    std::vector<value_plan> pieces; ///< of a text: constants and what stands between them
};

struct parameter_plan {
    field_path to;
    value_plan what;
};

/// Which objects. With a group, `name`, `is_event` and `field` say which of it is left out.
struct target_plan {
    std::string name;
    std::string group;
    bool is_all = false;             ///< every object of the kind
    bool is_event = false;           ///< the object that the event is for
    std::optional<field_path> field; ///< the object that this field names
    place_in at;
};

struct step_plan {
    place_in at;
    std::size_t action = 0; ///< in the catalogue
    target_plan target;
    std::vector<parameter_plan> parameters;
    double after = 0; ///< seconds
    std::vector<step_plan> success;
    std::vector<step_plan> failure;
};

struct phase_plan {
    std::string phases;
    std::string phase;
};

struct wire_plan {
    place_in at;
    std::string name; ///< may be empty
    std::string use;  ///< of a pattern, with its parameters: "bell answers(north, 1)"; else empty
    std::string note;
    std::size_t cause = 0; ///< in the catalogue
    target_plan target;    ///< one object, or a group
    std::vector<phase_plan> during;
    std::vector<condition_plan> conditions;
    std::vector<step_plan> steps;
    std::vector<step_plan> otherwise; ///< when the conditions do not hold
    std::uint32_t family = 0;         ///< alike for what one wire with several causes becomes; 0: it has one
    double after = 0;                 ///< seconds
    std::uint32_t times = 0;
    double every = 0;
    std::string stage;
    std::string set;
    bool enabled = true;
    bool stops = false;  ///< nobody behind it hears what it acts on
    wire_print print;    ///< alike for wires that do the same
    wire_print identity; ///< with its name and what its set says: what it is known by when files are loaded again
};

struct set_plan {
    std::string name;
    place_in at;
    std::vector<phase_plan> during;
    bool on = true;
};

/// Of those that are sorted by name; null: there is none of that name.
[[nodiscard]] inline const set_plan* find_set(const std::vector<set_plan>& sorted, std::string_view name) {
    const auto found = std::lower_bound(sorted.begin(), sorted.end(), name,
                                        [](const set_plan& one, std::string_view of) { return one.name < of; });
    return found != sorted.end() && found->name == name ? &*found : nullptr;
}

struct wiring_plan {
    std::vector<wire_plan> wires;
    std::vector<set_plan> sets; ///< sorted by name
};

/// Checks all files as one. The plan points into the catalogue.
wiring_plan check_wiring(const std::vector<data>& files, data_store& store, const catalogue& has, fault_list& faults);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
