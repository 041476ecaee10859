// Time limits, something else instead, all members of a group, and sequences that wait for sequences.
#include <courier/addressed_channel.hpp>
#include <courier/group.hpp>
#include <courier/outbox.hpp>
#include <courier/sequence.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>
#include <courier/wait.hpp>

#include <chrono>
#include <cstdio>
#include <optional>
#include <string>

using namespace std::chrono_literals;

struct TableSent {
    std::string text;
};
struct StoodTo {
    using address = int; // a hand
    bool armed;
};

struct Tower {
    courier::channel<TableSent> table_sent{"office.table_sent"};
    courier::addressed_channel<StoodTo> stood_to{"crew.stood_to"};
    courier::group<int> hands{"hands"};
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};

    void pass(courier::game_time step) {
        clock.advance(step);
        later.deliver();
    }
};

courier::sequence<std::optional<std::string>> from_office(Tower& tower) {
    const auto sent = co_await courier::within(tower.clock, 2s, courier::next(tower.table_sent));
    co_return sent ? std::optional{sent->text} : std::nullopt;
}

courier::sequence<std::optional<std::string>> from_disk(bool there) {
    co_return there ? std::optional<std::string>{"copy on disk"} : std::nullopt;
}

courier::sequence<std::string> shipped() {
    co_return "the table that ships";
}

courier::sequence<> tide_table(Tower& tower, bool on_disk) {
    const std::string table = co_await courier::or_else(
        courier::or_else(from_office(tower), [&] { return from_disk(on_disk); }), [] { return shipped(); });
    std::printf("tide table: %s\n", table.c_str());
}

courier::sequence<> muster(Tower& tower) {
    const auto hand = [&](int number) { return courier::next(tower.stood_to.at(number)); };
    const auto [first, how] = co_await courier::any_in(tower.hands, hand);
    std::printf("hand %d is the first%s\n", first, how.armed ? ", and armed" : "");
    const auto all = co_await courier::all_in(tower.hands, hand);
    std::printf("all %zu stand to\n", all.size());
}

int main() {
    Tower tower;
    const auto three = tower.hands.join(3);
    const auto five = tower.hands.join(5);
    courier::subscriber in{"keeper"};
    in.start(tide_table(tower, true));
    tower.table_sent.publish({"from the office"});
    in.start(tide_table(tower, true));
    tower.pass(2s);
    in.start(tide_table(tower, false));
    tower.pass(2s);

    in.start(muster(tower));
    tower.stood_to.publish_to(5, {.armed = true});
    tower.stood_to.publish_to(3, {.armed = false});
    tower.stood_to.publish_to(5, {.armed = true});
}
