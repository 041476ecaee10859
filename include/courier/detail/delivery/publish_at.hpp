// Publishing to one address.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/address_text.hpp>
#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Address>
[[gnu::noinline]] receipt publish_at_with_care(channel_core& core, const Address& address, const void* payload,
                                               std::source_location where, const std::string* publisher) {
    const held until_then(core); // copying what is kept may end the channel
    if ((core.work & work_keeps) != 0) {
        keep_at_address(core, &address, payload);
        if (core.closed) {
            return receipts::made(0, receipt_closed);
        }
    }
    const telling_address now(core, &address);
    const address_cell& at = find_at(*core.book, address);
    const bool noted = ledger_built_in && (core.work & work_noted) != 0;
    return noted ? deliver_at_as(core, at, payload, where, {publisher, label_of(address)})
                 : deliver_at(core, at, payload, where);
}

template <class Address>
receipt publish_at(channel_core& core, const Address& address, const void* payload, std::source_location where,
                   const std::string* publisher = nullptr) {
    if constexpr (checked_build) {
        check_use(core, "published on", where);
    }
    if ((core.work & (work_keeps | work_noted | work_tells)) != 0) [[unlikely]] {
        return publish_at_with_care(core, address, payload, where, publisher);
    }
    return deliver_at(core, find_at(*core.book, address), payload, where);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
