// A random program, determined by its seed: what is done from outside, and
// what handlers do when they are called.
#pragma once

#include "world.hpp"

#include <cstdint>
#include <random>
#include <string>
#include <vector>

namespace model {

class program {
public:
    program(std::uint64_t seed, int length) : random_(seed), length_(length), keeps_order_(seed % 2 == 0) {}

    /// Carries the program out; returns what was observed, a line each.
    std::vector<std::string> run(world& w);

    /// Called by a world for every delivery, before the handler's verdict.
    void delivered(int number, int channel, int value);

    /// Whether rounds deliver in the order of posts, which half of the programs want.
    [[nodiscard]] bool keeps_order() const noexcept { return keeps_order_; }

    /// Operations carried out, those from inside handlers included.
    [[nodiscard]] std::uint64_t steps() const noexcept { return steps_; }

private:
    void step();
    void act_on_subscription(int what);
    void act_on_owner(int what);
    void subscribe();
    void publish();
    void deliver();
    void note(std::string line) { log_.push_back(std::move(line)); }
    int pick(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }
    int some_subscription() { return made_ == 0 ? nobody : made_ - 1 - pick(made_ < 30 ? made_ : 30); }

    static constexpr int deepest = 4;

    std::mt19937_64 random_;
    int length_;
    bool keeps_order_;
    world* world_ = nullptr;
    std::vector<std::string> log_;
    std::uint64_t steps_ = 0;
    int made_ = 0;
    int depth_ = 0;
};

} // namespace model
