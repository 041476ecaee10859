// Boats come in to a harbour, and a board counts what they bring. Neither class includes the other's header in a larger
// game: both know the payload alone.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

struct boat_moored { // the payload: a struct with named fields
    int boat;
    int crates;
};

/// Publishes, and knows nobody.
class harbour {
public:
    /// Others may subscribe, and cannot publish.
    [[nodiscard]] const courier::channel<boat_moored>& moored() const { return moored_; }

    void moor(int boat, int crates) { moored_.publish({.boat = boat, .crates = crates}); }

private:
    courier::channel<boat_moored> moored_{"harbour.moored"};
};

/// Reacts, as long as it lives.
class board {
public:
    explicit board(const harbour& here) {
        in_.subscribe(here.moored(), [this](const boat_moored& m) { crates_ += m.crates; });
    }

    [[nodiscard]] int crates() const { return crates_; }

private:
    int crates_ = 0;
    courier::subscriber in_{"board"}; // last, so that it ends first
};
