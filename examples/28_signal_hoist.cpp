// Inputs of any kind feed one check; what its success and its failure lead to is data.
#include <courier/channel.hpp>
#include <courier/wiring/wiring.hpp>

#include <cstdio>
#include <string>

enum class flag { whale, gull, anchor };

struct Raise {
    flag shown;
};
struct Raised {
    flag shown;
    int up;
};
struct Read {
    std::string as;
};
// All the code there is: it knows neither who raises flags nor which signal is wanted.
class hoist {
public:
    explicit hoist(courier::wiring& wires) {
        wires.offer(raised_);
        wires.announce("hoist.raise", "hoist.raised");
        wires.action<Raise>(in_, "hoist.raise", [this](const Raise& r) {
            static const char* const names[] = {"whale", "gull", "anchor"};
            signal_ += (signal_.empty() ? "" : " ") + std::string(names[static_cast<int>(r.shown)]);
            raised_.publish({r.shown, ++up_});
        });
        wires.action<Read>(in_, "hoist.read", [this](const Read& r) -> courier::outcome<> {
            return signal_ == r.as ? courier::outcome<>() : courier::failed{"it says " + signal_};
        });
        wires.action(in_, "hoist.strike", [this] {
            signal_.clear();
            up_ = 0;
        });
    }

private:
    courier::channel<Raised> raised_{"hoist.raised"};
    courier::subscriber in_{"hoist"};
    std::string signal_;
    int up_ = 0;
};

// The rest is the designer's.
constexpr const char* level = R"(
[[wire]]
when = "crew.ready"
do = { action = "hoist.raise", parameters = { shown = "{flag}" } }

[[wire]]
when = "harbour.calls"
do = { action = "hoist.raise", parameters = { shown = "anchor" } }

[[wire]]
when = "hoist.raised"
do = { action = "board.write", parameters = { text = "flag {up}: the {shown}" } }

[[wire]]
when = "hoist.raised"
if = { up = 3 }
do = { action = "hoist.read", parameters = { as = "anchor gull whale" }, done = [
  { action = "board.write", parameters = { text = "the boom is lowered" } },
  "hoist.strike",
], failed = [
  { action = "board.write", parameters = { text = "the horn sounds: wrong signal" } },
  "hoist.strike",
] }
)";

struct CrewReady {
    ::flag flag;
};
struct HarbourCalls {};
struct Line {
    std::string text;
};

int main() {
    courier::channel<CrewReady> crew{"crew.ready"};
    courier::channel<HarbourCalls> harbour{"harbour.calls"};
    courier::subscriber board{"board"};
    courier::wiring wires{"harbour"};
    wires.offer(crew);
    wires.offer(harbour);
    wires.action<Line>(board, "board.write", [](const Line& l) { std::printf("%s\n", l.text.c_str()); });
    const hoist mast{wires};
    wires.load_text("level.toml", level);

    crew.publish({.flag = flag::gull}); // in the wrong order
    harbour.publish({});
    crew.publish({.flag = flag::whale});

    harbour.publish({});
    crew.publish({.flag = flag::gull});
    crew.publish({.flag = flag::whale});

    for (const courier::wire_report& one : wires.wires()) {
        if (one.failures != 0) {
            std::printf("%s:%u: %s\n", one.file.c_str(), one.line, one.last_failure.c_str());
        }
    }
}
