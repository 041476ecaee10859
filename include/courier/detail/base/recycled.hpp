// Memory that a thread uses again and again.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Room for an object that comes and goes often, such as a coroutine's frame or a timed call. The thread
/// that gives a block back keeps it for the next one of about the same size, until the thread ends;
/// blocks of more than two kilobytes go back to the system at once.
void* take_block(std::size_t size);
void give_block(void* block, std::size_t size) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
