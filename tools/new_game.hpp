// A small game to begin with.
// SPDX-License-Identifier: MIT
#pragma once

#include <string_view>
#include <vector>

namespace tool {

struct game_file {
    std::string_view name;
    std::string_view text; ///< with `new_game_name` where the game's name belongs
};

inline constexpr std::string_view new_game_name = "my_game";

[[nodiscard]] const std::vector<game_file>& new_game_files();

} // namespace tool
