// Where each address' payload waits.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Emptied in one step.
class address_index {
public:
    /// The place noted for `code`, where `same(place)` holds; null if there is
    /// none. `same` may not come back here.
    template <class Same>
    const std::uint32_t* find(std::uint64_t code, Same same) const {
        for (std::size_t i = code & mask_; !cells_.empty() && cells_[i].round == round_; i = (i + 1) & mask_) {
            if (cells_[i].code == code && same(cells_[i].place)) {
                return &cells_[i].place;
            }
        }
        return nullptr;
    }
    /// So that `add()` needs no memory.
    void make_room();
    void add(std::uint64_t code, std::uint32_t place) noexcept;
    void clear() noexcept {
        ++round_;
        used_ = 0;
    }

private:
    struct cell {
        std::uint64_t code;
        std::uint64_t round; ///< cells of other rounds are empty
        std::uint32_t place;
    };
    void put(std::uint64_t code, std::uint32_t place) noexcept;

    std::vector<cell> cells_;
    std::size_t mask_ = 0;
    std::size_t used_ = 0;
    std::uint64_t round_ = 1;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
