// Something to wait for of every kind.
#pragma once

#include "support.hpp"

namespace test {

struct StoodTo {
    using address = int;
    int after = 0;
};

/// Something to wait for of every kind, and a log.
struct scene {
    std::unique_ptr<courier::channel<Moored>> port = std::make_unique<courier::channel<Moored>>("port");
    courier::channel<Moored> starboard{"starboard"};
    courier::addressed_channel<StoodTo, int> stood_to{"stood to"};
    courier::outbox later{"later"};
    courier::timetable hours{later};
    courier::state<int> tide{"tide", 0};
    std::string log;
    std::unique_ptr<courier::subscriber> in = std::make_unique<courier::subscriber>("watch");

    void note(const std::string& what) { log += what + " "; }
    void note(int number) { note(std::to_string(number)); }
    void publish(int boat) { port->publish({.boat = boat}); }
    void pass(courier::game_time step) {
        hours.advance(step);
        later.deliver();
    }
    [[nodiscard]] std::string taken() { return std::exchange(log, {}); }
};

/// Notes that the frame it lies in is gone.
struct mark {
    scene& s;
    std::string text;
    ~mark() { s.note(text); }
};

} // namespace test
