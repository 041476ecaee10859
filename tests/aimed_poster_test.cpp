// Posters for one address or one group.
#include "support.hpp"

using courier::keep;
using courier::outbox;
using courier::poster;

namespace {

struct Hailed {
    using address = int;
    int order = 0;
};

} // namespace

TEST_CASE("a poster may be for one address or a group, for posts, timers and other threads alike") {
    courier::addressed_channel<Hailed> hailed{"hailed"};
    outbox later{"later"};
    auto watch = std::make_unique<courier::group<int>>("watch");
    const courier::membership<int> north = watch->join(1);
    std::string log;
    courier::subscriber in;
    for (const int at : {1, 2, 3}) {
        in.subscribe(hailed.at(at),
                     [&log, at](const Hailed& h) { log += std::to_string(at) + ":" + std::to_string(h.order) + " "; });
    }
    const poster<Hailed> to_watch{later, hailed, *watch};
    const poster<Hailed> to_three{later, hailed, 3, {.keep = keep::one}};
    courier::timetable clock{later};
    courier::inbox arrivals{later};
    const courier::inlet<Hailed> from_afar{arrivals, to_watch};
    const courier::timer soon = clock.every(std::chrono::seconds(1), to_watch, {5});
    CHECK(to_watch.post({4}));
    CHECK(to_three.post_all(std::vector<Hailed>{{6}, {7}}) == 2);
    CHECK(from_afar.send({8}));
    arrivals.take_in();
    const courier::membership<int> south = watch->join(2); // in time to hear them
    later.deliver();
    CHECK(log == "1:4 2:4 1:8 2:8 3:7 ");
    clock.advance(std::chrono::seconds(1));
    watch.reset(); // nobody's from now on
    CHECK(to_watch.post({9}));
    CHECK(later.deliver().delivered == 2);
    CHECK(log == "1:4 2:4 1:8 2:8 3:7 ");
}
