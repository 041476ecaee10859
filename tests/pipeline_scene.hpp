// Two channels, and a log of what comes out of pipelines on them.
#pragma once

#include "support.hpp"

namespace pipelines {

using courier::channel;
using test::Moored;

/// Two channels of numbers, and a log of what came out.
struct scene {
    std::unique_ptr<channel<Moored>> port = std::make_unique<channel<Moored>>("port");
    std::unique_ptr<channel<Moored>> starboard = std::make_unique<channel<Moored>>("starboard");
    courier::outbox later{"later"};
    courier::timetable hours{later};
    std::string log;
    std::unique_ptr<courier::subscriber> in = std::make_unique<courier::subscriber>("listener");

    template <class Pipe>
    courier::subscription_key hear(const Pipe& pipe,
                                   courier::delivery_options<typename Pipe::payload_type> options = {}) {
        return in->subscribe(
            pipe, [this](const auto& value) { this->note(value); }, std::move(options));
    }
    void note(int value) { log += std::to_string(value) + " "; }
    void note(const Moored& m) { note(m.boat); }
    void note(std::span<const int> window) {
        for (int value : window) {
            log += std::to_string(value);
        }
        log += " ";
    }
    template <class A, class B>
    void note(const std::pair<A, B>& both) {
        note(both.first);
        log.back() = '+';
        note(both.second);
    }
    void publish(std::initializer_list<int> boats) {
        for (int boat : boats) {
            port->publish({.boat = boat, .cargo = boat * 10});
        }
    }
    void pass(courier::game_time step) {
        hours.advance(step);
        later.deliver();
    }
    [[nodiscard]] std::string taken() { return std::exchange(log, {}); }
};

inline const auto boat = courier::transform(&Moored::boat);
inline const auto even = courier::filter([](int value) { return value % 2 == 0; });

} // namespace pipelines
