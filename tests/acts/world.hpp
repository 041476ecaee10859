// A world in which everything public is done at random, from every place where
// code of the user's runs.
#pragma once

#include "payloads.hpp"

#include <courier/wiring/wiring.hpp>

namespace acts {

template <class T>
using place = std::unique_ptr<T>;

class world {
public:
    explicit world(unsigned seed);
    world(const world&) = delete;
    world& operator=(const world&) = delete;
    ~world();

    /// One act from outside, with all that follows from it.
    void step();
    /// From inside: sometimes an act, sometimes a squall.
    void meddle(bool may_throw);
    void meddle_in_value(bool may_throw);
    /// Everything ends; what is left over, in words, empty if nothing is.
    std::string finish();

private:
    [[nodiscard]] unsigned roll(unsigned below) { return static_cast<unsigned>(chance_() % below); }
    [[nodiscard]] int number(unsigned below) { return static_cast<int>(roll(below)); }
    [[nodiscard]] courier::game_time some_time() { return courier::game_time(roll(25)); }

    // Making one runs no code of the world's, so that what has been found stays.
    template <class T, std::size_t N, class... Arguments>
    T& any_of_them(std::array<place<T>, N>& all, const Arguments&... arguments) {
        place<T>& one = all[roll(N)];
        if (one == nullptr) {
            const bool before = std::exchange(still_, true);
            one = std::make_unique<T>("one", arguments...);
            still_ = before; // one may be made while another one is
        }
        return *one;
    }
    courier::channel<Parcel>& channel() { return any_of_them(channels_); }
    courier::channel<Anchor>& anchors() { return any_of_them(anchors_); }
    courier::addressed_channel<Parcel, int>& addressed() { return any_of_them(addressed_); }
    courier::state<Load>& state() { return any_of_them(states_); }
    courier::formula<Load>& formula();
    courier::announced_list<Load>& list() { return any_of_them(lists_); }
    courier::announced_map<int, Load>& map() { return any_of_them(maps_); }
    courier::subscriber& in() { return any_of_them(subscribers_); }
    courier::group<int>& group() { return any_of_them(groups_); }
    courier::outbox& later();
    courier::timetable& hours();
    courier::inbox& arrivals();
    courier::frame_driver& frame();
    courier::wiring& wires();

    void act();
    void publish();
    void post();
    void make_poster();
    void let_time_pass();
    void change_value();
    void keep_books();
    void count();
    void subscribe_plainly();
    void subscribe_to_values();
    void subscribe_to_one();
    void subscribe_to_several();
    void keep_something();
    void end_something();
    void end_later();
    void end_value();
    void end_level();
    void live_in_a_level();
    void live_in_systems();
    void live_through_levels();
    courier::level& reef();
    void wire_up();
    void assign_a_handle();
    courier::systems& systems();
    courier::reactions<int>& reactions();
    void react();
    auto heard() {
        return [this, last = Farewell()] { react(); };
    }
    [[nodiscard]] Load look();
    courier::sequence<> story();
    courier::sequence<int> inner_story();

    std::mt19937 chance_;
    int depth_ = 0;
    int left_ = 0;     ///< acts until this step is over
    int in_value_ = 0; ///< code that a value runs in the middle of its change
    int in_formula_ = 0;
    bool ending_ = false;
    bool still_ = false; ///< nobody acts

    std::array<place<courier::ledger>, 2> ledgers_;
    std::array<place<courier::channel<Parcel>>, 3> channels_;
    std::array<place<courier::channel<Anchor>>, 2> anchors_;
    std::array<place<courier::addressed_channel<Parcel, int>>, 2> addressed_;
    std::array<place<courier::state<Load>>, 3> states_;
    std::array<place<courier::formula<Load>>, 3> formulas_;
    std::array<place<courier::announced_list<Load>>, 2> lists_;
    std::array<place<courier::announced_map<int, Load>>, 2> maps_;
    std::array<place<courier::group<int>>, 2> groups_;
    std::array<place<courier::tally<int>>, 2> tallies_;
    place<courier::outbox> later_;
    place<courier::timetable> hours_;
    place<courier::inbox> arrivals_;
    place<courier::frame_driver> frame_;
    place<courier::wiring> wires_; ///< ends before its timetable
    std::array<place<courier::poster<Parcel>>, 3> posters_;
    std::array<place<courier::poster<Anchor>>, 2> anchor_posters_;
    std::array<place<courier::addressed_poster<Parcel>>, 2> addressed_posters_;
    std::array<place<courier::inlet<Parcel>>, 2> senders_;
    std::array<place<courier::relay>, 2> relays_;
    std::array<place<courier::subscriber>, 4> subscribers_;
    std::array<place<courier::subscription>, 4> subscriptions_;
    std::array<courier::timer, 6> timers_;
    std::array<courier::membership<int>, 3> memberships_;
    std::array<courier::subscription, 3> assigned_;
    place<courier::systems> systems_;
    place<courier::reactions<int>> reactions_;
    std::array<courier::team, 2> teams_;
    courier::hub game_{"game"};
    place<courier::level> reef_;
};

} // namespace acts
