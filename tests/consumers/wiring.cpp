// A game whose reactions are in a file.
#include <courier/channel.hpp>
#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/wiring.hpp>

struct Moored {
    int barge;
};
struct Ring {
    int strokes;
};

int main() {
    courier::channel<Moored> moored{"barges.moored"};
    courier::subscriber bell{"bell"};
    courier::wiring wires{"consumer"};
    int rung = 0;
    wires.offer(moored);
    wires.action<Ring>(bell, "bell.ring", [&](const Ring& r) { rung += r.strokes; });
    wires.load_text("consumer.toml", "[[wire]]\nwhen = 'barges.moored'\n"
                                     "do = { action = 'bell.ring', parameters = { strokes = '{barge}' } }\n");
    moored.publish({.barge = 3});
    return rung == 3 && courier::catalogue_of(courier::to_asyncapi(wires.catalogue())) == wires.catalogue() ? 0 : 1;
}
