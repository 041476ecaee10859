// Whose functions run apart from handlers.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/delivery/party.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// While this lives, a subscriber's timed call or refresher runs: ledgers name the
/// subscriber as the publisher of what that publishes. Without a ledger it does nothing.
class acting_as {
public:
    explicit acting_as(party* who) noexcept
        : who_(overseen() ? who : nullptr), acting_(this_oversight.acting, who_.get()),
          in_(this_oversight.acting_in, this_oversight.now), is_(this_oversight.unusual.acting, who_.get() != nullptr) {
    }

private:
    held<party> who_; ///< its function may end it
    meanwhile<const party*> acting_;
    meanwhile<const noted_now*> in_;
    meanwhile<bool> is_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
