// SPDX-License-Identifier: MIT
#include <courier/detail/later/address_index.hpp>

#include <algorithm>
#include <bit>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void address_index::make_room() {
    if (cells_.size() >= (used_ + 1) * 2) {
        return;
    }
    std::vector<cell> before(std::max<std::size_t>(8, cells_.size() * 2));
    before.swap(cells_);
    mask_ = cells_.size() - 1;
    for (const cell& c : before) {
        if (c.round == round_) {
            put(c.code, c.place);
        }
    }
}

void address_index::add(std::uint64_t code, std::uint32_t place) noexcept {
    put(code, place);
    ++used_;
}

void address_index::put(std::uint64_t code, std::uint32_t place) noexcept {
    std::size_t i = code & mask_;
    while (cells_[i].round == round_) {
        i = (i + 1) & mask_;
    }
    cells_[i] = {code, round_, place};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
