// SPDX-License-Identifier: MIT
#include <courier/handler_times.hpp>

#include <algorithm>
#include <bit>
#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN

void handler_time_counts::add(std::uint64_t ns) noexcept {
    ++measured;
    worst = std::max(worst, ns);
    ++buckets[std::min<std::size_t>(static_cast<std::size_t>(std::bit_width(ns)), buckets.size() - 1)];
}

void handler_time_counts::add(const handler_time_counts& other) noexcept {
    measured += other.measured;
    worst = std::max(worst, other.worst);
    for (std::size_t i = 0; i < buckets.size(); ++i) {
        buckets[i] += other.buckets[i];
    }
}

handler_times handler_time_counts::sum_up() const noexcept {
    std::uint64_t below = 0;
    for (std::size_t i = 0; i < buckets.size(); ++i) {
        below += buckets[i];
        if (below * 2 >= measured && measured != 0) {
            return {measured, worst, std::min(worst, (std::uint64_t{1} << i) - (i == 0 ? 0 : 1))};
        }
    }
    return {measured, worst, 0};
}

WIRED_COURIER_NAMESPACE_END
