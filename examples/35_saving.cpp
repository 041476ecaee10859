// A night that is saved, a level that is restored, and a text of an older version of the game.
#include <courier/data/saved_values.hpp>
#include <courier/hub_values.hpp>
#include <courier/level.hpp>

#include <cstdio>
#include <string>

enum class watch { calm, storm, dawn };

struct Mole {
    int barges = 0;
    double depth = 2.5; // new: older texts do not have it
    friend bool operator==(const Mole&, const Mole&) = default;
};

int main() {
    courier::hub game{"game"};
    courier::saved_values save{"gannet reef"};
    save.add(game); // the hub's values, as it makes them
    courier::state<int>& score = game.state<int>("score");
    courier::phases<watch> hours{
        "watch", watch::calm, {{watch::calm, {watch::storm}}, {watch::storm, {watch::dawn}}, {watch::dawn, {}}}};
    save.add(hours);

    // What belongs to a level is saved while that is there.
    courier::state<Mole>* mole = nullptr;
    courier::level reef{"reef", game, [&](courier::level& here) {
                            mole = &here.make<courier::state<Mole>>("mole");
                            save.add(*mole, {.formerly = "pier"});
                        }};
    reef.begin();

    // A fanfare for points that are won, not for those that come back.
    courier::subscriber horn{"horn"};
    horn.subscribe(score, [](const courier::change<int>& c) { std::printf("fanfare: %d\n", c.after()); },
                   {.during = save.playing()});
    courier::subscriber board{"board"};
    board.subscribe(score, [&](const courier::change<int>& c) {
        std::printf("board: %d points, %d barges\n", c.after(), mole->glance().barges);
    });

    score.set(10);
    mole->set({.barges = 3});
    hours.move_to(watch::storm);
    const std::string night = save.to_json();
    std::fputs(night.c_str(), stdout);

    score.set(11);
    reef.restart();
    hours.move_to(watch::dawn); // from which no move leads back
    std::puts("restored:");
    for (const courier::json_fault& fault : save.restore(night)) {
        std::puts(fault.text().c_str());
    }

    std::puts("a text of last year:");
    for (const courier::json_fault& fault :
         save.restore(R"({"saved_values":1,"of":"gannet reef","values":{"score":5,"pier":{"barges":1,"cranes":2}}})")) {
        std::puts(fault.text().c_str());
    }
    std::puts("a text that does not fit:");
    for (const courier::json_fault& fault :
         save.restore(R"({"saved_values":1,"values":{"score":"many","watch":"noon"}})")) {
        std::puts(fault.text().c_str());
    }
}
