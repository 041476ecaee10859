// Payloads and values that meddle: whatever is done to them, they do something
// to the world in turn.
#pragma once

#include "../everything.hpp"

namespace acts {

struct squall : std::runtime_error {
    squall() : std::runtime_error("squall") {}
};

/// Called whenever something is done to a payload; may act. With `may_throw` it
/// may throw a squall, too.
void meddle(bool may_throw);
/// The same for a value that a state or formula holds, in the middle of whose
/// change it is called: it ends no values.
void meddle_in_value(bool may_throw);

/// How many there are; none must be left in the end.
inline long alive = 0;

/// Copies may throw, moves do not.
struct Parcel {
    using address = int;
    int number = 0;
    bool whole = true; ///< was not moved from

    Parcel() noexcept { ++alive; }
    explicit Parcel(int n) noexcept : number(n) { ++alive; }
    Parcel(const Parcel& other) : number(other.number) {
        meddle(true);
        ++alive;
    }
    Parcel(Parcel&& other) noexcept : number(other.number), whole(std::exchange(other.whole, false)) {
        ++alive;
        meddle(false);
    }
    Parcel& operator=(const Parcel& other) {
        meddle(true);
        number = other.number;
        whole = other.whole;
        return *this;
    }
    Parcel& operator=(Parcel&& other) noexcept {
        number = other.number;
        whole = std::exchange(other.whole, false);
        meddle(false);
        return *this;
    }
    ~Parcel() {
        if (whole) {
            meddle(false);
        }
        --alive;
    }
};

/// Whose moves throw as well, and which cannot be assigned.
struct Anchor {
    const int number = 0;

    Anchor() noexcept { ++alive; }
    explicit Anchor(int n) noexcept : number(n) { ++alive; }
    Anchor(const Anchor& other) : number(other.number) {
        meddle(true);
        ++alive;
    }
    ~Anchor() {
        meddle(false);
        --alive;
    }
};

/// What states and formulas hold.
struct Load {
    int tons = 0;

    Load() noexcept { ++alive; }
    explicit Load(int t) noexcept : tons(t) { ++alive; }
    Load(const Load& other) : tons(other.tons) {
        meddle_in_value(true);
        ++alive;
    }
    Load(Load&& other) noexcept : tons(other.tons) { ++alive; }
    Load& operator=(const Load& other) {
        meddle_in_value(true);
        tons = other.tons;
        return *this;
    }
    Load& operator=(Load&& other) noexcept {
        tons = other.tons;
        meddle_in_value(false);
        return *this;
    }
    ~Load() {
        meddle_in_value(false);
        --alive;
    }
    friend bool operator==(const Load& a, const Load& b) {
        meddle_in_value(true);
        return a.tons == b.tons;
    }
};

/// Captured by handlers, policies and functions; acts when it ends.
struct Farewell {
    bool whole = true;
    Farewell() noexcept { ++alive; }
    Farewell(const Farewell&) noexcept { ++alive; }
    Farewell(Farewell&& other) noexcept : whole(std::exchange(other.whole, false)) { ++alive; }
    Farewell& operator=(const Farewell&) = delete;
    ~Farewell() {
        if (whole) {
            meddle(false);
        }
        --alive;
    }
};

} // namespace acts
