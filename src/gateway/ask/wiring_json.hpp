// What there is to tell of wiring, as JSON.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/wiring.hpp>
#include <courier/wiring/wiring_edit.hpp>

#include <nlohmann/json.hpp>

#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] nlohmann::json json_of(const wire_report& one);
[[nodiscard]] nlohmann::json json_of(const edited_wire& one);
[[nodiscard]] nlohmann::json json_of(const std::vector<wiring_fault>& faults);
[[nodiscard]] nlohmann::json json_of(const value_shape& shape);
[[nodiscard]] nlohmann::json json_of(const std::vector<fitting_field>& fields);
[[nodiscard]] nlohmann::json json_of(const fitting_action& action);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
