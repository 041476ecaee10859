// The phases of a night: which moves are allowed, and what is live during which.
#include <courier/phases.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>

enum class Night { calm, storm, dawn };
enum class Lamp { dark, lit };

struct Sighted {
    int distance;
};

int main() {
    courier::phases<Night> night{
        "night", Night::calm, {{Night::calm, {Night::storm, Night::dawn}}, {Night::storm, {Night::dawn}}}};
    courier::phases<Lamp> lamp{"lamp", Lamp::dark};
    lamp.stay_inside(night, Night::storm); // goes out with the storm

    courier::channel<Sighted> sighted{"wyrms.sighted"};
    courier::subscriber keeper{"keeper"};
    keeper.subscribe(night.entered(Night::storm), [] { std::puts("the storm breaks"); });
    keeper.subscribe(night.left(Night::storm), [] { std::puts("the storm is over"); });
    keeper.subscribe(lamp.moved(), [](const courier::phase_move<Lamp>& m) {
        std::puts(m.to == Lamp::lit ? "the lamp is lit" : "the lamp goes out");
    });
    keeper.subscribe(sighted, [](const Sighted& s) { std::printf("a wyrm, %d cables off\n", s.distance); },
                     {.during = night.in(Night::storm)});

    sighted.publish({.distance = 9}); // in the calm nobody looks out
    night.move_to(Night::storm);
    lamp.move_to(Lamp::lit);
    sighted.publish({.distance = 4});
    night.move_to(Night::dawn);
    std::printf("back to the storm: %s\n", night.may_move_to(Night::storm) ? "yes" : "no");
    std::printf("entered: %d storm\n", static_cast<int>(night.times_entered(Night::storm)));
}
