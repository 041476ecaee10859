// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/slot_pool.hpp>

#include <algorithm>
#include <new>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

slot_pool::~slot_pool() {
    while (chunks_ != nullptr) {
        chunk* gone = chunks_;
        chunks_ = gone->next;
        ::operator delete(gone);
    }
}

slot& slot_pool::slot_in(chunk& c, std::size_t i) const noexcept {
    return *reinterpret_cast<slot*>(reinterpret_cast<std::byte*>(&c) + header + i * slot_size_);
}

void slot_pool::add_chunk(std::size_t count) {
    void* memory = ::operator new(header + count * slot_size_);
    chunks_ = ::new (memory) chunk{chunks_, count};
    for (std::size_t i = count; i-- > 0;) {
        slot* s = ::new (&slot_in(*chunks_, i)) slot{};
        s->blocked = block_free;
        s->next = free_;
        free_ = s;
    }
    capacity_ += count;
    free_count_ += count;
}

void slot_pool::add_chunk() {
    add_chunk(std::clamp(capacity_, smallest_chunk, largest_chunk));
}

std::size_t slot_pool::bytes() const noexcept {
    std::size_t sum = 0;
    for (const chunk* c = chunks_; c != nullptr; c = c->next) {
        sum += header + c->count * slot_size_;
    }
    return sum;
}

void slot_pool::reserve(std::size_t count) {
    if (count > free_count_) {
        add_chunk(std::max(count - free_count_, smallest_chunk));
    }
}

void slot_pool::shrink() noexcept {
    for (chunk** at = &chunks_; *at != nullptr;) {
        chunk* c = *at;
        bool in_use = false;
        for (std::size_t i = 0; i < c->count && !in_use; ++i) {
            in_use = (slot_in(*c, i).blocked & block_free) == 0;
        }
        if (in_use) {
            at = &c->next;
            continue;
        }
        *at = c->next;
        capacity_ -= c->count;
        ::operator delete(c);
    }
    relist();
}

// Chunks went away, so the free list is made anew from those that stay.
void slot_pool::relist() noexcept {
    free_ = nullptr;
    free_count_ = 0;
    for (chunk* c = chunks_; c != nullptr; c = c->next) {
        for (std::size_t i = c->count; i-- > 0;) {
            slot& s = slot_in(*c, i);
            if ((s.blocked & block_free) != 0) {
                s.next = free_;
                free_ = &s;
                ++free_count_;
            }
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
