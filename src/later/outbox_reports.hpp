// What an outbox has to say about how it is used.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/later/outbox_core.hpp>

#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// It was told to deliver by what it is delivering to.
void report_nested(const outbox_core& box);

/// Something still waits after so many rounds.
void report_busy(const outbox_core& box, std::size_t rounds);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
