// What somebody probably meant who wrote a line that is not TOML.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct toml_slip {
    std::string what;
    std::string advice;
};

/// In words for designers. `text` is the line at which the parser gave up, `description` its
/// own words, which are used only where the line shows none of the usual slips.
[[nodiscard]] toml_slip slip_in(std::string_view text, std::string_view description);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
