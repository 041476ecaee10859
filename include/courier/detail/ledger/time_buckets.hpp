// How long handlers took.
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>

#include <array>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Times of handlers, in buckets of powers of two of a nanosecond.
struct time_buckets {
    std::uint64_t measured = 0;
    std::uint64_t worst = 0;
    std::array<std::uint32_t, 40> buckets{};

    void add(std::uint64_t ns) noexcept;
    void add(const time_buckets& other) noexcept;
    [[nodiscard]] handler_times sum_up() const noexcept;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
