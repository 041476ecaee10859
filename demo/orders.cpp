#include "orders.hpp"

#include <fmt/format.h>

namespace reef {

orders::orders(const barges& convoy, night_log& log)
    : log_(log), waiting_{{"chandler", 30}, {"smithy", 45}, {"infirmary", 25}, {"bakery", 40}} {
    log_.expect("orders");
    in_.subscribe<&orders::on_moored>(convoy.moored(), *this);
}

void orders::on_moored(const Moored& arrival) {
    log_.heard("orders");
    in_store_ += arrival.crates;
    log_.react("orders", fmt::format("store {} crates", in_store_));
    while (!waiting_.empty() && waiting_.front().crates <= in_store_) {
        const order next = waiting_.front();
        waiting_.erase(waiting_.begin());
        in_store_ -= next.crates;
        log_.publish("orders", filled_, {.buyer = next.buyer, .crates = next.crates});
    }
}

} // namespace reef
