// Who depends on whom among systems, as a picture.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// As Graphviz has it: systems are boxes, those of one wave side by side; a
/// line leads from an object to each system that needs it, a thick one if the system
/// changes it, a dashed one if it only reads. Lent objects have round corners.
[[nodiscard]] std::string as_dot(const std::vector<system_books>& systems);

WIRED_COURIER_NAMESPACE_END
