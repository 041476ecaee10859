// Text that payloads refer to without owning it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <deque>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// It stays as long as this.
class kept_texts {
public:
    std::string_view keep(std::string_view text) { return texts_.emplace_back(text); }

private:
    std::deque<std::string> texts_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
