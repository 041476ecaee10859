// Finds mistakes in wires that are in force.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/audit.hpp>
#include <courier/config.hpp>
#include <courier/wiring/wiring.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

/// Objects that wires name and that never came, once for each name, with the nearest
/// name that did come; and wires of which every reaction failed, with the latest reason.
/// Call it when the level has been there for a while: what it says of is
/// not wrong at once. Throws only when memory runs out.
[[nodiscard]] audit_report audit(const wiring& of);

WIRED_COURIER_NAMESPACE_END
