// Everything is made, used and ended at random, also by one another's
// handlers, which may throw as well. What is looked for is found by the
// sanitizers, and by what is left over in the end.
#include "support.hpp"

#include <courier/formula.hpp>
#include <courier/list_state.hpp>
#include <courier/map_state.hpp>
#include <courier/pipeline.hpp>
#include <courier/sequence.hpp>
#include <courier/state.hpp>
#include <courier/wait.hpp>

#include <doctest/doctest.h>

#include <array>
#include <chrono>
#include <memory>
#include <optional>
#include <random>
#include <stdexcept>
#include <string>

using test::Moored;

namespace {

template <class T>
using place = std::unique_ptr<T>;

class random_world {
public:
    explicit random_world(unsigned seed) : chance_(seed) {}

    void act() {
        if (depth_ > 3) {
            return;
        }
        ++depth_;
        try {
            switch (roll(6)) {
            case 0:
                use();
                break;
            case 1:
                change();
                break;
            case 2:
                end_something();
                break;
            case 3:
                subscribe_to_one();
                break;
            case 4:
                subscribe_to_several();
                break;
            default:
                keep_or_tell();
            }
        } catch (const std::runtime_error&) { // a handler's
        }
        --depth_;
    }

    void end_all() { subscribers_ = {}; }

private:
    unsigned roll(unsigned below) { return static_cast<unsigned>(chance_() % below); }
    int number(unsigned below) { return static_cast<int>(roll(below)); }
    bool perhaps() { return roll(2) == 0; }

    template <class T, std::size_t N>
    T& any_of_them(std::array<place<T>, N>& all) {
        place<T>& one = all[roll(N)];
        if (one == nullptr) {
            one = std::make_unique<T>("one");
        }
        return *one;
    }
    courier::channel<Moored>& channel() {
        courier::channel<Moored>& one = any_of_them(channels_);
        if (roll(4) == 0) {
            one.retain_latest();
        }
        return one;
    }
    courier::state<int>& state() { return any_of_them(states_); }
    courier::subscriber& in() { return any_of_them(subscribers_); }
    courier::timetable& hours() {
        if (later_ == nullptr) {
            hours_.reset();
            later_ = std::make_unique<courier::outbox>("later");
        }
        if (hours_ == nullptr) {
            hours_ = std::make_unique<courier::timetable>(*later_);
        }
        return *hours_;
    }
    courier::game_time some_time() { return courier::game_time(roll(25)); }
    auto heard() {
        return [this] { react(); };
    }

    // What every handler does.
    void react() {
        if (roll(3) == 0) {
            act();
        }
        if (roll(50) == 0) {
            throw std::runtime_error("squall");
        }
    }

    void use() {
        if (roll(4) != 0) {
            channel().publish({.boat = number(9)});
            return;
        }
        hours().advance(some_time());
        later_->deliver(); // which it may not survive
    }

    void change() {
        switch (roll(4)) {
        case 0:
            courier::together([&] {
                state().set(number(5));
                act();
                state().set(number(5));
            });
            break;
        case 1:
            berths().set(number(4), number(4));
            berths().remove(number(4));
            break;
        case 2:
            orders().add(number(5));
            orders().set(roll(3), number(5));
            orders().remove(roll(4));
            break;
        default:
            state().set(number(5));
        }
    }

    void end_something() {
        switch (roll(12)) {
        case 0:
            channels_[roll(4)].reset();
            break;
        case 1:
            states_[roll(4)].reset();
            break;
        case 2:
            hours_.reset();
            if (perhaps()) {
                later_.reset();
            }
            break;
        case 3:
            berths_.reset();
            break;
        case 4:
            orders_.reset();
            break;
        case 5:
        case 6:
            perhaps() ? in().pause() : in().resume();
            break;
        default:
            subscribers_[roll(5)].reset();
        }
    }

    void subscribe_to_one() {
        const bool retained = perhaps();
        switch (roll(4)) {
        case 0:
            in().subscribe(channel() | courier::filter([](const Moored& m) { return m.boat > 2; }) |
                               courier::take(1 + roll(3)),
                           heard(), {.retained = retained});
            break;
        case 1:
            in().subscribe(channel() | courier::quiet_for(hours(), some_time()) | courier::take(1 + roll(2)), heard());
            break;
        case 2:
            in().start(story());
            break;
        default:
            in().subscribe(channel() | courier::slide(2) | courier::at_most_every(hours(), some_time()), heard(),
                           {.times = roll(3), .retained = retained});
        }
    }

    void subscribe_to_several() {
        const bool retained = perhaps();
        switch (roll(4)) {
        case 0:
            in().subscribe(courier::merge(channel(), channel() | courier::take(roll(3))) | courier::drop(roll(2)),
                           heard(), {.times = roll(3), .retained = retained});
            break;
        case 1:
            in().subscribe(channel() | courier::paired_with_latest(channel()) | courier::take(2), heard(),
                           {.retained = retained});
            break;
        case 2:
            in().subscribe(courier::gather(channel(), channel(), channel()), heard(), {.retained = retained});
            break;
        default:
            in().subscribe(channel() | courier::transform(&Moored::boat) |
                               courier::overridden_by(channel() | courier::transform([](const Moored& m) {
                                                          return m.boat % 2 != 0 ? std::optional{m.boat} : std::nullopt;
                                                      })),
                           heard());
        }
    }

    void keep_or_tell() {
        switch (roll(4)) {
        case 0: {
            place<courier::formula<int>>& one = formulas_[roll(3)];
            if (one == nullptr) {
                one = std::make_unique<courier::formula<int>>("formula", [this] { return read_some() / 2; });
            }
            in().subscribe(*one, heard(), {.retained = perhaps()});
            break;
        }
        case 1:
            in().subscribe(berths(), heard(), {.retained = perhaps()});
            in().subscribe(orders(), heard(), {.retained = perhaps()});
            break;
        case 2:
            hours();
            in().keep_current(*later_, [this] { look(); });
            break;
        default:
            in().keep_current([this] { look(); });
        }
    }

    int read_some() {
        int sum = 0;
        for (const auto& one : states_) {
            sum += one != nullptr && perhaps() ? one->read() : 0;
        }
        return sum;
    }
    void look() {
        seen_ = read_some();
        if (berths_ != nullptr && berths_->read(2) != nullptr) {
            ++seen_;
        }
        for (const auto& one : formulas_) {
            seen_ += one != nullptr && perhaps() ? one->read() : 0;
        }
        if (roll(8) == 0) {
            act();
        }
    }

    courier::sequence<> story() {
        for (int i = 0; i < 4; ++i) {
            switch (roll(5)) {
            case 0:
                co_await courier::next(channel());
                break;
            case 1:
                co_await courier::any_of(courier::next(channel()), courier::elapsed(hours(), some_time()));
                break;
            case 2:
                co_await courier::next(state());
                break;
            case 3:
                co_await courier::next(courier::merge(channel(), channel()));
                break;
            default:
                co_await courier::all_of(inner_story(), courier::next(channel()));
            }
            react();
        }
    }
    courier::sequence<int> inner_story() {
        co_await courier::any_of(courier::next(channel()), courier::next(channel()));
        react();
        co_return 3;
    }

    courier::map_state<int, int>& berths() {
        if (berths_ == nullptr) {
            berths_ = std::make_unique<courier::map_state<int, int>>("berths");
        }
        return *berths_;
    }
    courier::list_state<int>& orders() {
        if (orders_ == nullptr) {
            orders_ = std::make_unique<courier::list_state<int>>("orders");
        }
        return *orders_;
    }

    std::mt19937 chance_;
    int depth_ = 0;
    int seen_ = 0;
    std::array<place<courier::channel<Moored>>, 4> channels_;
    std::array<place<courier::state<int>>, 4> states_;
    std::array<place<courier::formula<int>>, 3> formulas_;
    std::array<place<courier::subscriber>, 5> subscribers_;
    place<courier::outbox> later_;
    place<courier::timetable> hours_;
    place<courier::map_state<int, int>> berths_;
    place<courier::list_state<int>> orders_;
};

} // namespace

TEST_CASE("everything may be ended at any moment by anybody") {
    const test::fault_catcher faults; // rounds within rounds and the like
    for (unsigned seed = 1; seed <= 25; ++seed) {
        CAPTURE(seed);
        random_world world(seed);
        for (int i = 0; i < 1500; ++i) {
            world.act();
        }
        world.end_all();
        REQUIRE(courier::list_sequences().empty());
        REQUIRE(courier::list_views().empty());
    }
}
