// States that files declare: [state."wyrms driven off"], with what they begin.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/check/checker.hpp"

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Its kind is that of `start`: a truth, a whole number, a number or a text.
struct declared_state {
    std::string name;
    value_kind kind = value_kind::other;
    constant start;
    place_in at;
};

/// What there is once all that files declare has been made. Points to what it was made from.
class declarations {
public:
    declarations(const std::vector<data>& files, const catalogue& has, fault_list& faults);

    [[nodiscard]] const std::vector<declared_state>& states() const noexcept { return states_; }
    /// Whether they are others than those that are declared in `has`.
    [[nodiscard]] bool differ() const noexcept { return differ_; }
    [[nodiscard]] const catalogue& all() const noexcept { return differ_ ? changed_ : has_; }

private:
    void read(wire_checker& by, const keyed_data& from);
    void look_for_clashes(fault_list& faults);

    const catalogue& has_;
    std::vector<declared_state> states_; ///< sorted by name
    catalogue changed_;
    bool differ_ = false;
};

/// The names of the actions of a state that a file declares.
[[nodiscard]] inline std::string action_that_sets(const std::string& state) {
    return "set " + state;
}
[[nodiscard]] inline std::string action_that_adds(const std::string& state) {
    return "add to " + state;
}
[[nodiscard]] inline std::string action_that_toggles(const std::string& state) {
    return "toggle " + state;
}

/// Their parameters.
template <class T>
struct value_to_set {
    T value;
};
template <class T>
struct amount_to_add {
    T amount = 1;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
