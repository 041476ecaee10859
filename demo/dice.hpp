// Chance, the same on every machine for the same seed.
#pragma once

#include <cstdint>
#include <random>

namespace reef {

class dice {
public:
    explicit dice(std::uint64_t seed) : engine_(seed) {}

    /// A number from `low` to `high`, both included. Not by a standard
    /// distribution, since these differ between standard libraries.
    int between(int low, int high) {
        const auto span = static_cast<std::uint64_t>(high - low) + 1;
        return low + static_cast<int>(engine_() % span);
    }

    bool one_in(int n) { return between(1, n) == 1; }

private:
    std::mt19937_64 engine_;
};

} // namespace reef
