// Every allocation of the test program goes through here. In a file of its
// own, so that the compiler does not see through it.
#include "allocations.hpp"

#include <atomic>
#include <cstdlib>
#include <new>

namespace {

std::atomic<long> allocations{0}; // the thread sanitizer watches, too
std::atomic<long> frees{0};

constinit thread_local long left = 0; ///< until one fails; 0: none does
constinit thread_local bool all_fail = false;
constinit thread_local bool failed = false;

bool fails() {
    if (left == 0 || --left != 0) {
        return false;
    }
    failed = true;
    left = all_fail ? 1 : 0;
    return true;
}

void give_back(void* memory) noexcept {
    frees += memory != nullptr ? 1 : 0;
    std::free(memory);
}

#if defined(_WIN32) // with functions of its own, which take no other's memory back
void* take_aligned(std::size_t alignment, std::size_t size) noexcept {
    return _aligned_malloc(size, alignment);
}
void give_back_aligned(void* memory) noexcept {
    frees += memory != nullptr ? 1 : 0;
    _aligned_free(memory);
}
#else
void* take_aligned(std::size_t alignment, std::size_t size) noexcept {
    return std::aligned_alloc(alignment, (size + alignment - 1) / alignment * alignment);
}
void give_back_aligned(void* memory) noexcept {
    give_back(memory);
}
#endif

} // namespace

test::memory_full::memory_full(long which, bool for_good) {
    left = which;
    all_fail = for_good;
    failed = false;
}

bool test::memory_full::happened() const {
    return failed;
}

void test::memory_full::end() {
    left = 0;
}

long test::allocations_so_far() {
    return allocations;
}

long test::blocks_there() {
    return allocations - frees;
}

void* operator new(std::size_t size) {
    ++allocations;
    if (fails()) {
        throw std::bad_alloc{};
    }
    if (void* memory = std::malloc(size != 0 ? size : 1)) {
        return memory;
    }
    throw std::bad_alloc{};
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    ++allocations;
    return fails() ? nullptr : std::malloc(size != 0 ? size : 1);
}
void* operator new(std::size_t size, std::align_val_t align) {
    ++allocations;
    if (fails()) {
        throw std::bad_alloc{};
    }
    const auto alignment = static_cast<std::size_t>(align);
    if (void* memory = take_aligned(alignment, size)) {
        return memory;
    }
    throw std::bad_alloc{};
}
void operator delete(void* memory) noexcept {
    give_back(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
    give_back(memory);
}
void operator delete(void* memory, std::align_val_t) noexcept {
    give_back_aligned(memory);
}
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept {
    give_back_aligned(memory);
}
