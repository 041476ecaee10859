// How much is allocated meanwhile, and what becomes of those who get none.
#pragma once

namespace test {

long allocations_so_far();
/// Allocated, and not given back.
long blocks_there();

/// Counts from when it is made.
struct counted {
    long before = allocations_so_far();
    [[nodiscard]] long since() const { return allocations_so_far() - before; }
};

/// While it lives, the `which`-th allocation of this thread fails, and, if so
/// wanted, all after it.
class memory_full {
public:
    explicit memory_full(long which, bool for_good = false);
    memory_full(const memory_full&) = delete;
    memory_full& operator=(const memory_full&) = delete;
    ~memory_full() { end(); }

    /// Whether one has failed.
    [[nodiscard]] bool happened() const;
    void end();
};

} // namespace test
