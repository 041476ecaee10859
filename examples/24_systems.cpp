// Systems: plain classes, made as they need one another, updated in that order.
#include <courier/frame_driver.hpp>
#include <courier/systems.hpp>

#include <chrono>
#include <cstdio>

using namespace std::chrono_literals;

struct Tides {
    void update(courier::game_time step) { depth += static_cast<int>(step / 1s); }
    int depth = 2; // fathoms
};
struct Barges {
    explicit Barges(const Tides& tides) : tides_(tides) {} // reads the tides, so they come first
    void update() { afloat = tides_.depth > 3 ? 4 : 1; }
    int afloat = 0;

private:
    const Tides& tides_;
};
struct Board {
    Board(const Barges& convoy, const Tides& tides) : convoy_(convoy), tides_(tides) {}
    void update() { std::printf("  %d fathoms, %d barges afloat\n", tides_.depth, convoy_.afloat); }

private:
    const Barges& convoy_;
    const Tides& tides_;
};
struct Rain {
    explicit Rain(Tides& tides) : tides_(tides) { std::puts("  the rain begins"); }
    ~Rain() { std::puts("  the rain is over"); }
    void update() { ++tides_.depth; }

private:
    Tides& tides_; // changes them
};

int main() {
    courier::systems reef{"reef"};
    reef.get<Board>(); // makes the tides, the barges, the board
    courier::frame_driver frame;
    frame.update(reef);
    frame.run(1s);

    courier::team storm = reef.add<Rain>("storm");
    frame.run(1s);
    storm.pause();
    frame.run(1s);
    storm.end();

    for (const courier::system_report& s : reef.list()) {
        std::printf("%s, wave %zu, needs %zu\n", s.name.c_str(), s.wave, s.needs.size());
    }
}
