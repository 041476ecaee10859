// The states that a wiring makes because its files declare them.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/check/declared_states.hpp"

#include <courier/wiring/detail/action.hpp>
#include <courier/wiring/detail/cause.hpp>

#include <memory>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One of them, with the actions that set it.
class made_state {
public:
    made_state() = default;
    made_state(const made_state&) = delete;
    made_state& operator=(const made_state&) = delete;
    virtual ~made_state() = default;

    std::string name;
    value_kind kind = value_kind::other;
    std::shared_ptr<cause_base> cause;
    std::vector<std::shared_ptr<action_base>> actions;
};

[[nodiscard]] std::shared_ptr<made_state> make_state(const declared_state& wanted, const std::string& file);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
