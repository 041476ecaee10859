// How much is allocated meanwhile.
#pragma once

namespace test {

long allocations_so_far();

/// Counts from when it is made.
struct counted {
    long before = allocations_so_far();
    [[nodiscard]] long since() const { return allocations_so_far() - before; }
};

} // namespace test
