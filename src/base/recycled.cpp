// SPDX-License-Identifier: MIT
#include <courier/detail/base/recycled.hpp>

#include "base/of_this_thread.hpp"

#include <new>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t block_step = 64; // blocks are made in multiples of this
constexpr std::size_t classes = 32;    // and kept up to this many of it

struct free_block {
    free_block* next;
};

/// Plain, so that it can be used while a thread ends.
struct block_pool {
    free_block* blocks[classes] = {};
    bool gone = false; ///< the thread is ending; nothing is kept any more
};
thread_local constinit block_pool this_pool;

// Gives the pool back when the thread ends.
struct pool_end {
    ~pool_end() {
        this_pool.gone = true;
        for (free_block*& first : this_pool.blocks) {
            while (first != nullptr) {
                ::operator delete(std::exchange(first, first->next));
            }
        }
    }
};

std::size_t class_of(std::size_t size) noexcept {
    return (size + block_step - 1) / block_step;
}

} // namespace

void* take_block(std::size_t size) {
    const std::size_t k = class_of(size);
    if (k < classes && !this_pool.gone) {
        if (free_block* const first = this_pool.blocks[k]; first != nullptr) {
            this_pool.blocks[k] = first->next;
            return first;
        }
    }
    static_cast<void>(of_this_thread<pool_end>()); // made with the first block of a thread
    return ::operator new(k* block_step);
}

void give_block(void* block, std::size_t size) noexcept {
    const std::size_t k = class_of(size);
    if (k < classes && !this_pool.gone) {
        this_pool.blocks[k] = ::new (block) free_block{this_pool.blocks[k]};
    } else {
        ::operator delete(block);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
