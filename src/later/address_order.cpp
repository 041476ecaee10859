// SPDX-License-Identifier: MIT
#include <courier/detail/later/address_order.hpp>

#include <algorithm>
#include <array>
#include <span>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void address_order::begin(std::size_t most) {
    if (all_.size() < most) {
        all_.resize(most);
        other_.resize(most);
    }
    size_ = 0;
    row_ = 0;
}

void address_order::end_row() {
    constexpr unsigned digit = 11;
    constexpr std::size_t values = std::size_t{1} << digit;
    std::span row = std::span(all_).subspan(row_, size_ - row_);
    std::span other = std::span(other_).subspan(row_, row.size());
    std::uint64_t differ = 0;
    for (const keyed_place& one : row) {
        differ |= one.key ^ row.front().key;
    }
    bool is_elsewhere = false;
    for (unsigned shift = 0; shift < 64; shift += digit) {
        if (((differ >> shift) & (values - 1)) == 0) {
            continue;
        }
        std::array<std::uint32_t, values> next{};
        for (const keyed_place& one : row) {
            ++next[(one.key >> shift) & (values - 1)];
        }
        std::uint32_t sum = 0;
        for (std::uint32_t& count : next) {
            sum += std::exchange(count, sum);
        }
        for (const keyed_place& one : row) {
            other[next[(one.key >> shift) & (values - 1)]++] = one;
        }
        std::swap(row, other);
        is_elsewhere = !is_elsewhere;
    }
    if (is_elsewhere) {
        std::copy(row.begin(), row.end(), other.begin());
    }
    row_ = size_;
}

void address_order::add_between() {
    end_row();
    add(0);
    row_ = size_;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
