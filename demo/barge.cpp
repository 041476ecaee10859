#include "barge.hpp"

#include <fmt/format.h>

namespace reef {

barge::barge(int number, int to_go, courier::lifecycle_channels<barge>& life,
             const courier::addressed_channel<Hailed>& hails, night_log& log)
    : number_(number), to_go_(to_go), in_(name()), life_(*this, life) {
    in_.subscribe(hails.at(number_),
                  [this, &log](const Hailed& hail) { log.react(name(), fmt::format("answers: {}, aye", hail.order)); });
}

void barge::lose(int crates) {
    crates_ -= crates;
    lost_ += crates;
}

void barge::cast_off(courier::group<int>& convoy) {
    if (!in_convoy_.live()) {
        in_convoy_ = convoy.join(number_);
        life_.wake();
    }
}

void barge::moor() {
    moored_ = true;
    in_convoy_.end();
    life_.sleep();
}

} // namespace reef
