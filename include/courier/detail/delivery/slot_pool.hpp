// Slots in chunks that never move, reused last in first out.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/slot.hpp>

#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class slot_pool {
public:
    /// Slots of `slot_size` bytes each.
    explicit slot_pool(std::size_t slot_size) noexcept : slot_size_(slot_size) {}
    slot_pool(const slot_pool&) = delete;
    slot_pool& operator=(const slot_pool&) = delete;
    ~slot_pool();

    /// A slot that is not in use, its memory uninitialised past the header.
    slot& take() {
        if (free_ == nullptr) [[unlikely]] {
            add_chunk();
        }
        slot& s = *free_;
        free_ = s.next;
        --free_count_;
        s.blocked = 0;
        s.next = nullptr;
        return s;
    }
    void give_back(slot& s) noexcept {
        s.blocked = block_free;
        s.next = free_;
        free_ = &s;
        ++free_count_;
    }

    [[nodiscard]] bool has_free() const noexcept { return free_ != nullptr; }
    [[nodiscard]] std::size_t capacity() const noexcept { return capacity_; }
    [[nodiscard]] std::size_t bytes() const noexcept;

    /// Makes sure that `count` slots more can be taken without allocating.
    void reserve(std::size_t count);

    /// Frees every chunk that holds no slot in use.
    void shrink() noexcept;

private:
    struct chunk {
        chunk* next;
        std::size_t count;
    };

    static constexpr std::size_t smallest_chunk = 4;
    static constexpr std::size_t largest_chunk = 256;
    static constexpr std::size_t header = 16;

    slot& slot_in(chunk& c, std::size_t i) const noexcept;
    void add_chunk();
    void add_chunk(std::size_t count);
    void relist() noexcept;

    std::size_t slot_size_;
    std::size_t capacity_ = 0;
    std::size_t free_count_ = 0;
    chunk* chunks_ = nullptr;
    slot* free_ = nullptr;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
