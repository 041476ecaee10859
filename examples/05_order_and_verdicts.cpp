// Stages give the order a name; a verdict keeps later handlers from being served.
#include <courier/channel.hpp>
#include <courier/stage.hpp>
#include <courier/subscriber.hpp>
#include <courier/verdict.hpp>

#include <cstdio>
#include <string>

// Declared once, for the whole game.
inline constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
inline constexpr courier::stage presentation = courier::after(courier::ordinary, "presentation");

struct MoveAsked {
    int barge;
    int depth_needed; // fathoms
};

int main() {
    courier::channel<MoveAsked> asked{"barges.move_asked"};
    int water = 3; // fathoms over the bar

    courier::subscriber board{"watch board"};
    board.subscribe(asked, [](const MoveAsked& m) { std::printf("  board: barge %d is under way\n", m.barge); },
                    {.stage = presentation});

    courier::subscriber barges{"barges"};
    barges.subscribe(asked, [](const MoveAsked& m) { std::printf("  barge %d moves\n", m.barge); });

    courier::subscriber tides{"tides"}; // subscribed last, served first
    tides.subscribe(asked,
                    [&water](const MoveAsked& m) {
                        return m.depth_needed > water ? courier::verdict::stop : courier::verdict::go_on;
                    },
                    {.stage = rules});

    for (; water > 0; --water) {
        std::printf("%d fathoms over the bar\n", water);
        const courier::receipt r = asked.publish({.barge = 1, .depth_needed = 2});
        if (r.stopped()) {
            std::printf("  forbidden by %s\n", std::string(r.stopped_by()).c_str());
        }
    }
}
