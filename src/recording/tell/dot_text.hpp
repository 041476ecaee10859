// What pictures in Graphviz' language have in common.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline std::string escaped_for_dot(std::string_view text) {
    std::string out;
    for (const char c : text) {
        out += c == '"' || c == '\\' ? "\\" : "";
        out += c;
    }
    return out;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
