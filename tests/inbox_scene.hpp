// What the tests of inboxes share.
#pragma once

#include "support.hpp"

namespace inbox_scene {

using courier::channel;
using courier::inbox;
using courier::inlet;
using courier::outbox;

struct Flashed {
    int from = 0;
    int number = 0;
};

struct Hailed {
    using address = int;
    int order = 0;
};

inline std::atomic<long> alive{0};

/// Counted, and too large for a message.
struct Chart {
    explicit Chart(int n) : sheet(std::make_unique<int>(n)) { ++alive; }
    Chart(Chart&& other) noexcept : sheet(std::move(other.sheet)) { ++alive; }
    Chart& operator=(Chart&&) = default;
    ~Chart() { --alive; }
    std::unique_ptr<int> sheet;
    std::array<char, 100> margin{};
};

struct Note {
    std::string text;
};

/// Its move may throw, and may send.
struct Heavy {
    explicit Heavy(int n, const inlet<Flashed>* o = nullptr) : number(n), out(o) {}
    Heavy(Heavy&& other) : number(other.number), out(other.out) {
        if (number < 0 && --moves_left == 0) {
            throw std::runtime_error("too heavy");
        }
        if (out != nullptr) {
            out->send({.number = number});
        }
    }
    Heavy(const Heavy&) = default;
    int number;
    const inlet<Flashed>* out;
    inline static int moves_left = 0;
};

struct scene {
    channel<Flashed> flashed{"flashed"};
    outbox later{"later"};
    inbox arrivals;

    explicit scene(courier::inbox_options options = {}) : arrivals(later, "arrivals", std::move(options)) {}
    std::size_t step() {
        const std::size_t count = arrivals.take_in();
        later.deliver();
        return count;
    }
};

} // namespace inbox_scene
