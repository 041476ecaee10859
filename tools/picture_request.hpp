// What the commands that draw with Graphviz have in common.
// SPDX-License-Identifier: MIT
#pragma once

#include "run_request.hpp"

#include <string>

namespace tool {

struct picture_request : run_request {
    std::string dot;
    std::string svg;
    [[nodiscard]] bool wants_picture() const noexcept { return !dot.empty() || !svg.empty(); }
};

/// `--dot` and `--svg`.
void add_picture(option_set& options, picture_request& request);

/// Throws `std::invalid_argument` when a picture would replace the recording.
void check_picture(const picture_request& request);

/// Writes and draws what was asked for.
void draw_picture(const picture_request& request, const std::string& dot);

} // namespace tool
