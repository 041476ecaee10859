// Who reacts to what, in a file: checked as a whole, and loaded again while the game runs.
#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>
#include <courier/wiring/wiring.hpp>
#include <courier/wiring/wiring_audit.hpp>

#include <chrono>
#include <cstdio>
#include <string>

struct WyrmSighted {
    int wyrm;
    int distance; // cables
};

struct Ring {
    int strokes;
};
struct Note {
    std::string text;
};

enum class bell { north, south };

// A bell knows how to ring, and its name in files; not what for.
class bell_ringer {
public:
    bell_ringer(bell which, const std::string& name, courier::wiring& wires) : called_(wires.target(name, which)) {
        wires.action<Ring>(in_, "bell.ring", which,
                           [name](const Ring& r) { std::printf("%s: %d strokes\n", name.c_str(), r.strokes); });
    }

private:
    courier::subscriber in_{"bell"};
    courier::named_target called_;
};

int main() {
    courier::channel<WyrmSighted> sighted{"wyrms.sighted"};
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};
    courier::subscriber board{"board"};

    courier::wiring wires{"reef"};
    wires.offer(sighted);
    wires.use(clock);
    wires.action<Note>(board, "board.note", [](const Note& n) { std::printf("board: %s\n", n.text.c_str()); });
    const bell_ringer south{bell::south, "south bell", wires};

    const char* file = R"(
[[wire]]
name = "near"
when = "wyrms.sighted"
if = { distance = { at_most = 4 } }
do = [
  { action = "bell.ring", at = "south bell", parameters = { strokes = 2 } },
  { action = "board.note", parameters = { text = "wyrm {wyrm} at {distance} cables" } },
]
)";
    wires.load_text("reef.toml", file); // wires.load("reef.toml") where it is a file
    sighted.publish({.wyrm = 1, .distance = 3});
    sighted.publish({.wyrm = 2, .distance = 9});

    // Everything that is wrong is told at once, and what was in force stays.
    try {
        wires.load_text("reef.toml", R"([[wire]]
when = "wyrms.sigthed"
do = { action = "bell.ring", at = "south bell", parameters = { strokes = "two" } }
)");
    } catch (const courier::wiring_error& wrong) {
        std::printf("%s\n", wrong.what());
    }
    sighted.publish({.wyrm = 3, .distance = 4});

    // A bell that is not there yet; its wire waits for it.
    wires.load_text("reef.toml", std::string(file) + R"(
[[wire]]
when = "wyrms.sighted"
after = 1
do = { action = "bell.ring", at = "nort bell", parameters = { strokes = 1 } }
)");
    for (const courier::finding& one : courier::audit(wires).findings) {
        std::printf("%s: %s; %s\n", one.where.c_str(), one.what.c_str(), one.advice.c_str());
    }
    const bell_ringer north{bell::north, "nort bell", wires}; // so be it
    sighted.publish({.wyrm = 4, .distance = 8});
    clock.advance(std::chrono::seconds(1));
    later.deliver();
}
