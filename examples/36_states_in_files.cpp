// What a designer adds without code: counters and flags in a wiring file, and moves of a game's phases.
#include <courier/channel.hpp>
#include <courier/phases.hpp>
#include <courier/wiring/wiring.hpp>

#include <cstdio>
#include <string>

struct WyrmDrivenOff {
    int wyrm;
};
struct Note {
    std::string text;
};

enum class Watch { storm, calm, dawn };

int main() {
    courier::channel<WyrmDrivenOff> driven_off{"wyrms.driven_off"};
    courier::phases<Watch> watch{"watch", Watch::storm, {{Watch::storm, {Watch::calm}}, {Watch::calm, {Watch::dawn}}}};
    courier::subscriber board{"board"};

    courier::wiring wires{"reef"};
    wires.offer(driven_off);
    wires.offer(watch);
    wires.offer_moving(board, watch);
    wires.action<Note>(board, "board.note", [](const Note& n) { std::printf("board: %s\n", n.text.c_str()); });

    const std::string file = R"(
[state."wyrms gone"]
start = 0

[[wire]]
when = "wyrms.driven_off"
do = "add to wyrms gone"

[[wire]]
when = "wyrms gone"
if = { after = 2 }
do = [
  { action = "move watch", parameters = { to = "dawn" }, failed = { action = "board.note", parameters = { text = "too early: {why}" } } },
  { action = "move watch", parameters = { to = "calm" } },
  { action = "board.note", parameters = { text = "{wyrms gone} wyrms are gone" } },
]
)";
    wires.load_text("reef.toml", file);
    driven_off.publish({.wyrm = 1});
    driven_off.publish({.wyrm = 2});
    std::printf("calm: %s\n", watch.is(Watch::calm) ? "yes" : "no");

    // A further wire; the counter goes on from where it is.
    wires.load_text("reef.toml", file + R"(
[[wire]]
when = "wyrms.driven_off"
while = { "wyrms gone" = { at_least = 2 } }
do = { action = "board.note", parameters = { text = "one more: {wyrm}" } }
)");
    driven_off.publish({.wyrm = 3});
}
