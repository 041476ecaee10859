// What the parts of the check share.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/check/plan.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/nearest.hpp>

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What parameters may refer to.
struct value_scope {
    const value_shape* payload = nullptr; ///< null: the cause is not known
    std::string_view cause;               ///< its name
    std::string_view target_kind;         ///< of the cause; empty: it is for no object in particular
    const value_shape* answer = nullptr;  ///< of the action before, if it has one
    bool has_why = false;                 ///< the action before has failed
    bool is_of_state = false;             ///< the cause is one
};

/// Whose `at` it is, and which objects belong there.
struct wanted_object {
    std::string name; ///< in quotes
    std::string kind; ///< empty: none
};

class wire_checker {
public:
    wire_checker(const catalogue& has, fault_list& faults) : has_(has), faults_(faults) {}

    [[nodiscard]] const catalogue& has() const noexcept { return has_; }
    [[nodiscard]] fault_list& faults() noexcept { return faults_; }

    /// One wire; nothing when something in it is wrong, which is told.
    std::optional<wire_plan> wire(const data& from);
    std::vector<phase_plan> phases(const data& from);
    [[nodiscard]] std::string phases_like(std::string_view text) const;

    /// Whether a table has only these keys; others are told.
    bool only_keys(const data& table, std::string_view what, const std::vector<std::string>& known);
    /// A value of a kind, or null; what is there and of another kind is told.
    const data* need(const data& table, std::string_view key, data_kind kind, bool must_be_there = false);
    /// A time in seconds: a number, or a text such as "500 ms"; told when it is none.
    std::optional<double> seconds(const data& from);
    [[nodiscard]] const value_shape* state_shape(std::string_view name) const noexcept;
    [[nodiscard]] std::vector<std::string> state_names() const;

private:
    void cause(const data& from, wire_plan& made, value_scope& scope);
    void cause_target(const data& at, const channel_entry& cause, target_plan& made);
    std::vector<target_plan> action_targets(const data& step, const action_entry& action, const value_scope& scope);
    void action_target(const data& at, const action_entry& action, const value_scope& scope, target_plan& made);
    void object_named(const data& at, const wanted_object& whose, target_plan& made);
    void object_of_event(const data& at, const wanted_object& whose, const value_scope& scope, target_plan& made);
    void objects_of(const data& at, const wanted_object& whose, target_plan& made);
    void often(const data& from, wire_plan& made);
    void delayed(const std::vector<step_plan>& steps);
    void reactions(const data& from, const value_scope& scope, wire_plan& made);
    void wait_of(const data& from, int depth, step_plan& made);
    void time(const data& from, std::string_view key, double& into);
    void stage(const data& from, wire_plan& made);
    std::vector<step_plan> steps(const data& from, const value_scope& scope, int depth);
    void step(const data& from, const value_scope& scope, int depth, std::vector<step_plan>& into);
    void step_of(const data& name, const data& table, const value_scope& scope, int depth,
                 std::vector<step_plan>& into);

    const catalogue& has_;
    fault_list& faults_;
};

/// Of an address's type, for people: "bell".
[[nodiscard]] std::string kind_of_object(std::string_view type);
/// Looks a dotted name up in a struct.
[[nodiscard]] bool find_field(const value_shape& object, std::string_view name, field_path& into);
/// "did you mean 'x'?", or what there is, if that is not too much.
[[nodiscard]] std::string nearest_or_all(std::string_view name, const std::vector<std::string>& names,
                                         std::string_view there_is);
/// "'strokes' must be a whole number, but this is a text"
[[nodiscard]] std::string must_be(std::string_view name, std::string_view wanted, std::string_view given);
[[nodiscard]] std::string in_quotes(std::string_view name);
template <class Entries>
[[nodiscard]] std::vector<std::string> names_of(const Entries& entries) {
    std::vector<std::string> all;
    all.reserve(entries.size());
    for (const auto& one : entries) {
        all.push_back(one.name);
    }
    return all;
}

[[nodiscard]] bool is_simple(value_kind kind) noexcept;
/// Whether values can be compared as to which is more.
[[nodiscard]] bool has_order(value_kind kind) noexcept;
/// Whether values of one shape are taken where another is wanted, not by way of a text.
[[nodiscard]] bool value_fits(const value_shape& is, const value_shape& want) noexcept;

/// Reads a constant of a shape; told when it does not fit. `name` is what it is for.
std::optional<constant> constant_of(wire_checker& by, const data& from, const value_shape& shape,
                                    std::string_view name);
/// A list's items, or the one value itself.
[[nodiscard]] std::span<const data> one_or_several(const data& from);

void check_conditions(wire_checker& by, const data& from, const std::string& cause, const value_shape& payload,
                      std::vector<condition_plan>& into);
void check_state_conditions(wire_checker& by, const data& from, std::vector<condition_plan>& into);
void check_parameters(wire_checker& by, const data* from, const action_entry& action, place_in step,
                      const value_scope& scope, std::vector<parameter_plan>& into);

/// Values for some of the fields of a payload.
void check_sample(wire_checker& by, const data& from, const value_shape& payload, const std::string& channel,
                  std::vector<parameter_plan>& into);

/// A wire as it is written, or as a use of a pattern makes it.
struct wire_source {
    const data* table;
    std::string use;          ///< see wire_plan
    std::uint32_t family = 0; ///< the same
};

/// Replaces uses of patterns by wires, behind those that are there.
void expand_patterns(wire_checker& by, const std::vector<data>& files, data_store& store,
                     std::vector<wire_source>& wires);

/// Makes a wire for each cause of one that has several.
void expand_causes(wire_checker& by, data_store& store, std::vector<wire_source>& wires);

/// Tells of wires that set one another off without an end, and of doubles.
void check_together(wire_checker& by, const wiring_plan& plan);

/// Everything that a wire says, but for its place, name and note.
[[nodiscard]] wire_print print_of(const data& wire);
[[nodiscard]] wire_print identity_of(const wire_plan& wire, const std::vector<set_plan>& sets);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
