// SPDX-License-Identifier: MIT
#include <courier/fault.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

std::string fault_text(std::string_view where, std::string_view what, std::string_view advice, std::string_view code) {
    std::string made{where};
    made.append(where.empty() ? "" : ": ").append(what);
    if (!advice.empty()) {
        made.append("; ").append(advice);
    }
    return made.append(" [").append(code).append("]");
}

WIRED_COURIER_NAMESPACE_END
