// The name that was probably meant by one that does not exist.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Levenshtein's distance ("Binary codes capable of correcting deletions,
/// insertions and reversals", 1966).
[[nodiscard]] std::size_t distance(std::string_view a, std::string_view b);

} // namespace detail

/// The nearest of `names`, unless all are too far off to be of help; then empty.
template <class Names>
[[nodiscard]] std::string nearest_of(std::string_view name, const Names& names) {
    std::string nearest;
    std::size_t least = name.size() / 2 + 1;
    for (const std::string& candidate : names) {
        if (const std::size_t d = detail::distance(name, candidate); d < least) {
            least = d;
            nearest = candidate;
        }
    }
    return nearest;
}

/// Advice: "did you mean 'bell.ring'?", or `otherwise` when no name is near.
template <class Names>
[[nodiscard]] std::string did_you_mean(std::string_view name, const Names& names, std::string otherwise = {}) {
    const std::string nearest = nearest_of(name, names);
    return nearest.empty() ? std::move(otherwise) : "did you mean '" + nearest + "'?";
}

WIRED_COURIER_NAMESPACE_END
