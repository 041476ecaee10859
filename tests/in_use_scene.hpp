// What the tests of code of the user's in the middle of ours share.
#pragma once

#include "support.hpp"

namespace in_use {

using courier::addressed_channel;
using courier::addressed_poster;
using courier::channel;
using courier::outbox;
using courier::poster;
using courier::subscriber;
using courier::timetable;
using namespace std::chrono_literals;

/// Does something when it is destroyed; what waits may own it.
struct farewell {
    std::function<void()> act;
    explicit farewell(std::function<void()> what) : act(std::move(what)) {}
    farewell(const farewell&) = delete;
    farewell& operator=(const farewell&) = delete;
    ~farewell() { act(); }
};
using last_words = std::shared_ptr<farewell>;
inline last_words at_its_end(std::function<void()> what) {
    return std::make_shared<farewell>(std::move(what));
}

struct Flare {
    int colour = 0;
    last_words owner = nullptr;
};
struct Tide {
    int height = 0;
};
struct Bite {
    using address = int;
    int crates = 0;
};

} // namespace in_use
