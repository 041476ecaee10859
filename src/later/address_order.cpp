// SPDX-License-Identifier: MIT
#include <courier/detail/later/address_order.hpp>

#include <algorithm>
#include <array>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void sort_by_key(std::span<keyed_place> all) {
    std::uint64_t differ = 0;
    for (const keyed_place& one : all) {
        differ |= one.key ^ all.front().key;
    }
    if (differ == 0) {
        return;
    }
    std::vector<keyed_place> other(all.size());
    for (unsigned shift = 0; shift < 64; shift += 8) {
        if (((differ >> shift) & 0xff) == 0) {
            continue;
        }
        std::array<std::size_t, 256> next{};
        for (const keyed_place& one : all) {
            ++next[(one.key >> shift) & 0xff];
        }
        std::size_t sum = 0;
        for (std::size_t& count : next) {
            const std::size_t before = sum;
            sum += count;
            count = before;
        }
        for (const keyed_place& one : all) {
            other[next[(one.key >> shift) & 0xff]++] = one;
        }
        std::copy(other.begin(), other.end(), all.begin());
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
