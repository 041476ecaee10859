// Payloads say what their values mean, and may be anything a struct can be.
#include <courier/channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <memory>
#include <string>

struct DawnCame {}; // nothing to say

struct Flashed {
    int distance; // cables
};

struct Moored {
    int barge;
    int berth;
    int crates;
    int lost = 0; // may be left out
    std::string master;
};

struct OrdersDelivered {
    std::unique_ptr<std::string> sealed; // not copyable, and never copied
};

int main() {
    courier::channel<DawnCame> dawn{"watch.dawn_came"};
    courier::channel<Flashed> flashed{"weather.flashed"};
    courier::channel<Moored> moored{"barges.moored"};
    courier::channel<OrdersDelivered> orders{"harbour.orders_delivered"};

    courier::subscriber board{"watch board"};
    board.subscribe(dawn, [] { std::puts("dawn"); });
    board.subscribe(flashed, [](const Flashed& f) { std::printf("lightning at %d cables\n", f.distance); });
    board.subscribe(moored, [](const Moored& m) {
        std::printf("barge %d at berth %d: %d crates, %d lost, %s\n", m.barge, m.berth, m.crates, m.lost,
                    m.master.c_str());
    });
    board.subscribe(moored, [] { std::puts("a handler may ignore the payload"); });
    board.subscribe(orders, [](const OrdersDelivered& o) { std::printf("orders: %s\n", o.sealed->c_str()); });

    // The right to publish can be handed to somebody, by name.
    const courier::publisher<Flashed> weather{flashed, "weather"};

    dawn.publish();
    weather.publish({.distance = 7});
    moored.publish({.barge = 3, .berth = 1, .crates = 40, .master = "Isolde"});
    orders.publish({.sealed = std::make_unique<std::string>("hold the bar")});
}
