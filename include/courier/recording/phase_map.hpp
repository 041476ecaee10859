// The phases of something, and the moves between them, as a picture.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// As Graphviz has it: a cluster for each set, phases as ellipses, the one that
/// goes on with a double line; allowed moves as lines, with how often each was
/// made among the latest, dashed where it never was.
[[nodiscard]] std::string as_dot(const std::vector<phases_books>& sets);

WIRED_COURIER_NAMESPACE_END
