// Who depends on whom among systems, as a picture.
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>

#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// As Graphviz has it: systems are boxes, those of one wave side by side; a
/// line leads from what is needed to who needs it, a thick one where it is
/// changed, a dashed one where it is read. What was lent has round corners.
[[nodiscard]] std::string as_dot(const std::vector<system_books>& systems);

WIRED_COURIER_NAMESPACE_END
