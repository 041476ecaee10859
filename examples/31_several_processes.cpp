// Channels that go on in another process: over a broker, here one that is started for this example only. Both processes
// are in this one program, so that it can be read at a stretch; each has what it would have in one of its own.
#include "local_broker.hpp"

#include <courier/channel.hpp>
#include <courier/ferry/ferry.hpp>
#include <courier/ferry/remote_query.hpp>
#include <courier/query.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>

#include <chrono>
#include <cstdio>
#include <functional>
#include <string>
#include <thread>

using namespace std::chrono_literals;

struct BargeSails {
    std::string barge;
    int crates = 0;
};
struct Water {
    int fathoms = 0;
};
struct WaterAsked {
    using answer = Water;
    int hour = 0;
};

/// The systems of a lighthouse: none of them knows of other processes.
struct lighthouse {
    courier::channel<BargeSails> sails{"passage.sails"};
    courier::state<int> oil{"lamp.oil", 9};
};

/// Those of the harbour office.
struct office {
    courier::channel<BargeSails> expected{"office.expected"};
    courier::state<int> oil_at_the_reef{"office.oil", 0};
    courier::query<WaterAsked> water{"office.water"};
    courier::subscriber in{"office"};

    office() {
        in.subscribe(expected, [](const BargeSails& b) {
            std::printf("office: barge %s is expected, with %d crates\n", b.barge.c_str(), b.crates);
        });
        in.subscribe(oil_at_the_reef,
                     [](const courier::change<int>& c) { std::printf("office: oil at the reef: %d\n", c.after()); });
        in.answer(water, [](const WaterAsked& q) { return Water{4 + q.hour % 3}; });
    }
};

int main() {
    const reef::local_broker broker; // in a game: a broker that is there, with examples/broker/mosquitto.conf

    lighthouse reef;
    office harbour;
    courier::subscriber in{"main"};

    // What crosses, and with what promise; said once, and in one place.
    courier::ferry from_reef{{.process = "reef-1", .port = broker.port(), .processes_topic = "gannet/processes"}};
    from_reef.send(reef.sails, "gannet/barges", {.guarantee = courier::guarantee::exactly_once});
    from_reef.send(reef.oil, "gannet/reef-1/oil", {.encoding = courier::encoding::cbor});
    courier::remote_query<WaterAsked> water{from_reef, "gannet/office/water", 2000ms};
    int fathoms = 0;
    in.subscribe(water.answered(), [&](const courier::remote_answer<Water>& a) { fathoms = a.answer->fathoms; });

    courier::ferry to_office{{.process = "office", .port = broker.port(), .processes_topic = "gannet/processes"}};
    to_office.receive(harbour.expected, "gannet/barges", {.guarantee = courier::guarantee::exactly_once});
    to_office.receive(harbour.oil_at_the_reef, "gannet/reef-1/oil");
    to_office.answer(harbour.water, "gannet/office/water");
    bool knows_reef = false;
    in.subscribe(to_office.peers(), [&](const courier::peer_changed& p) { knows_reef = p.process == "reef-1"; });
    in.subscribe(to_office.lost(), [](const courier::payloads_lost& l) {
        std::printf("office: %s on %s: %s\n", std::string(id_of(l.code)).c_str(), l.topic.c_str(), l.what.c_str());
    });

    const auto frames_until = [&](const std::function<bool()>& is_so) { // each process has its own frames
        for (int i = 0; i < 2000 && !is_so(); ++i) {
            from_reef.take_in();
            to_office.take_in();
            std::this_thread::sleep_for(2ms);
        }
    };
    frames_until([&] { return knows_reef && harbour.oil_at_the_reef.glance() == 9; });

    reef.sails.publish({.barge = "Heron", .crates = 38});
    reef.oil.set(8);
    frames_until([&] { return harbour.oil_at_the_reef.glance() == 8; });

    water.ask({.hour = 5});
    frames_until([&] { return fathoms != 0; });
    std::printf("reef-1: the office says %d fathoms over the bar\n", fathoms);

    const courier::ferry_report report = to_office.report();
    std::printf("%llu payloads came, %llu were missing\n", static_cast<unsigned long long>(report.arrived),
                static_cast<unsigned long long>(report.of(courier::ferry_code::missing)));
    return 0;
}
