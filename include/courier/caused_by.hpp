// What happens while it lives has a cause that the caller names.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/cause.hpp>
#include <courier/config.hpp>
#include <courier/detail/delivery/oversight.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN

/// While it lives, what happens on this thread is caused by `why`.
class caused_by {
public:
    /// Until its end, what this thread publishes and posts counts as caused by `why`.
    explicit caused_by(cause why) noexcept
        : by_(detail::of_this_ledger(detail::unpacked_cause(why.packed_), why.handling_)),
          carried_(detail::this_oversight.carried, why.packed_) {}

private:
    detail::caused_by by_;
    detail::meanwhile<std::uint64_t> carried_;
};

WIRED_COURIER_NAMESPACE_END
