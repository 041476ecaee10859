// expect: (deleted|implicitly deleted)
// within: 12 lines
#include "reef.hpp"

struct Barge {
    explicit Barge(courier::lifecycle_channels<Barge>& on) : life{*this, on} {}
    courier::lifecycle<Barge> life;
};

int main() {
    courier::lifecycle_channels<Barge> on{"barge"};
    Barge first{on};
    Barge second{static_cast<Barge&&>(first)};
}
