// Every code of the library and the tool.
// SPDX-License-Identifier: MIT
#pragma once

#include <span>
#include <string_view>

namespace tool {

/// One code, as `courier codes` and docs/codes.md explain it.
struct code_entry {
    std::string_view id; ///< "courier.wiring.never-holds"
    std::string_view meaning;
    std::string_view cause;
    std::string_view cure;
};

/// All of them, family by family.
[[nodiscard]] std::span<const code_entry> all_codes() noexcept;

} // namespace tool
