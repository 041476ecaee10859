// Compares two states of a program.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/catalogue.hpp>

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// A difference between two catalogues.
struct catalogue_change {
    std::string where;      ///< "channel 'wyrms.sighted'"
    std::string what;       ///< "has no field 'distance' any more"
    bool may_break = false; ///< files or recordings that use it; additions break nothing
};

/// Everything in which `after` differs, in the order of `before`, then the additions.
/// A field that is added to a payload breaks nothing, and neither does a value more of
/// an enumeration or a wider range; a parameter that is added to an action breaks every
/// wire that calls it, unless it may be left out.
[[nodiscard]] std::vector<catalogue_change> compare(const catalogue& before, const catalogue& after);

WIRED_COURIER_NAMESPACE_END
