// expect: (deleted|implicitly deleted)
#include "reef.hpp"

#include <courier/lifecycle.hpp>

struct Barge {
    explicit Barge(courier::lifecycle_channels<Barge>& on) : life{*this, on} {}
    courier::lifecycle<Barge> life;
};

int main() {
    courier::lifecycle_channels<Barge> on{"barge"};
    Barge first{on};
    Barge second{static_cast<Barge&&>(first)};
}
