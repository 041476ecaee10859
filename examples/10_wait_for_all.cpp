// A tally knows who must report; objects announce themselves, so that it knows who there is.
#include <courier/group.hpp>
#include <courier/lifecycle.hpp>
#include <courier/subscriber.hpp>
#include <courier/tally.hpp>

#include <cstdio>
#include <map>
#include <memory>

struct StoodTo {
    int hand;
};

class Hand final {
public:
    Hand(int number, courier::lifecycle_channels<Hand>& life) : number_(number), life_(*this, life) {}
    [[nodiscard]] int number() const { return number_; }

private:
    int number_;
    courier::lifecycle<Hand> life_; // the last member: it announces a whole object
};

int main() {
    courier::lifecycle_channels<Hand> life{"hand"};
    courier::group<int> crew{"crew"};
    std::map<int, courier::membership<int>> aboard;
    courier::subscriber muster{"muster"};
    // The payload carries the object, with its type.
    muster.subscribe(life.appeared(), [&](const courier::appeared<Hand>& e) {
        aboard[e.object.number()] = crew.join(e.object.number());
    });
    muster.subscribe(life.gone(), [&](const courier::gone<Hand>& e) { aboard.erase(e.object.number()); });

    courier::channel<StoodTo> stood_to{"crew.stood_to"};
    courier::tally<int> ready{"crew.ready"};
    ready.expect_group(crew); // whoever is in it, now and later
    ready.reports_from(stood_to, &StoodTo::hand);
    courier::subscriber mate{"mate"};
    mate.subscribe(ready.progress(), [](const courier::tally_progress<int>& p) {
        std::printf("  hand %d: %zu of %zu\n", p.member, p.reported, p.expected);
    });
    mate.subscribe(ready.at_least(2), [] { std::puts("  enough for a boat"); });
    mate.subscribe(ready.completed(), [] { std::puts("  all hands"); });

    std::puts("three come aboard");
    const Hand one(1, life);
    const Hand two(2, life);
    auto three = std::make_unique<Hand>(3, life);
    std::puts("two stand to, the third goes overboard");
    stood_to.publish({.hand = 2});
    stood_to.publish({.hand = 1});
    three.reset(); // not waited for
    std::puts("the next watch");
    ready.reset();
    stood_to.publish({.hand = 1});
    std::printf("missing: hand %d\n", ready.missing().front());
    mate.clear(); // goes below
}
