#include "sanitized.hpp"
#include "sequence_scene.hpp"

using courier::sequence;
using test::Moored;
using test::scene;
using namespace std::chrono_literals;

namespace {

struct live_count {
    int& live;
    explicit live_count(int& count) : live(count) { ++live; }
    live_count(const live_count&) = delete;
    live_count& operator=(const live_count&) = delete;
    ~live_count() { --live; }
};

// Waits for this and that for ever, at random, and ends things at random.
sequence<int> wander(scene& s, std::mt19937& chance, int& live, int depth) {
    const live_count counted(live);
    for (int i = 0; i < 6; ++i) {
        switch (chance() % 9) {
        case 0:
            co_await courier::next(*s.port);
            break;
        case 1:
            co_await courier::elapsed(s.hours, courier::game_time(chance() % 50));
            break;
        case 2:
            co_await courier::until([&, wanted = static_cast<int>(chance() % 4)] { return s.tide.read() == wanted; });
            break;
        case 3:
            co_await courier::when_any(courier::next(*s.port), courier::elapsed(s.hours, 20ns));
            break;
        case 4:
            if (depth < 3) {
                co_await courier::when_all(wander(s, chance, live, depth + 1), courier::next(s.starboard));
            }
            break;
        case 5:
            if (depth < 3) {
                co_await courier::when_any(wander(s, chance, live, depth + 1), wander(s, chance, live, depth + 1));
            }
            break;
        case 6:
            s.starboard.publish({});
            break;
        case 7:
            s.tide.set(static_cast<int>(chance() % 4));
            break;
        default:
            co_await courier::within(s.hours, 10ns, wander(s, chance, live, depth + 1));
        }
    }
    co_return depth;
}

sequence<> wanderer(scene& s, std::mt19937& chance, int& live) {
    co_await wander(s, chance, live, 0);
}

} // namespace

TEST_CASE("sequences ended at random points leave nothing behind") {
    const bool overseen = std::getenv("COURIER_TEST_LEDGER") != nullptr; // which takes longer
    const int enough = test::sanitized ? 5000 : overseen ? 30000 : 100000;
    scene s;
    std::mt19937 chance(7);
    int live = 0;
    int started = 0;
    std::vector<std::unique_ptr<courier::subscriber>> owners(8);
    const test::fault_catcher faults; // a storm of changes may be cut short
    while (started < enough) {
        auto& owner = owners[chance() % owners.size()];
        switch (chance() % 8) {
        case 0:
            owner.reset();
            break;
        case 1:
            s.publish(1);
            break;
        case 2:
            s.pass(courier::game_time(chance() % 30));
            break;
        case 3:
            s.tide.set(static_cast<int>(chance() % 4));
            break;
        case 4:
            if (owner != nullptr) {
                chance() % 2 == 0 ? owner->pause() : owner->resume();
            }
            break;
        default:
            if (owner == nullptr) {
                owner = std::make_unique<courier::subscriber>("owner");
            }
            for (int i = 0; i < 16; ++i) {
                owner->start(wanderer(s, chance, live));
                ++started;
            }
        }
    }
    owners.clear();
    CHECK(live == 0);
    CHECK(courier::list_sequences().empty());
    CHECK(s.port->size() == 0);
    CHECK(s.starboard.size() == 0);
    CHECK(courier::list_refreshers().empty());
}

TEST_CASE("every wait takes a function that captures a text, once it has a name, and destroys it once") {
    struct counted {
        std::string text = "a text that is long enough to be on the heap, as a second end would show";
        int* live;
        explicit counted(int& of) : live(&of) { ++*live; }
        counted(const counted& other) : text(other.text), live(other.live) { ++*live; }
        ~counted() { --*live; }
    };
    struct stories {
        static sequence<> of(int which, courier::channel<Moored>& port, courier::state<int>& tide,
                             courier::group<int>& crew, courier::timetable& hours, int& live) {
            const counted own(live);
            const auto passes = [own](const Moored& m) { return m.boat > 0 && !own.text.empty(); };
            const auto holds = [own, &tide] { return tide.read() > 0 && !own.text.empty(); };
            const auto other = [own, &port] { return courier::next(port); };
            const auto each = [own, &port](int) { return courier::next(port); };
            const auto piped = port | courier::filter(passes);
            switch (which) {
            case 0:
                co_await courier::next(port, passes);
                break;
            case 1:
                co_await courier::next(piped);
                break;
            case 2:
                co_await courier::until(holds);
                break;
            case 3:
                co_await courier::or_else(courier::within(hours, std::chrono::seconds(1), courier::next(port)), other);
                break;
            case 4:
                co_await courier::all_in(crew, each);
                break;
            case 5:
                co_await courier::any_in(crew, each);
                break;
            default:
                co_await courier::when_any(courier::next(port, passes), courier::until(holds));
            }
        }
    };
    for (int which = 0; which < 7; ++which) {
        for (const bool goes_on : {true, false}) {
            CAPTURE(which);
            int live = 0;
            courier::channel<Moored> port{"port"};
            courier::state<int> tide{"tide"};
            courier::group<int> crew{"crew"};
            const auto member = crew.join(1);
            courier::outbox later{"later"};
            courier::timetable hours{later};
            {
                courier::subscriber in{"in"};
                const auto key = in.start(stories::of(which, port, tide, crew, hours, live));
                CHECK(live > 0);
                if (goes_on) {
                    port.publish({1, 0});
                    tide.set(1);
                    CHECK_FALSE(in.live(key));
                    CHECK(live == 0);
                }
            }
            CHECK(live == 0);
        }
    }
}

#if WIRED_COURIER_CHECKED
namespace {

/// Comes back as wrong code of a compiler does: neither waiting nor over.
struct lost_wait final : courier::detail::wait_base {
    using result_type = void;
    static bool begin(courier::detail::waiter& told) {
        told.of->waiting = nullptr;
        return false;
    }
    void result() {}
    void end() noexcept {}
    [[nodiscard]] std::string describe() const override { return "nothing"; }
};

sequence<> astray() {
    co_await lost_wait{};
}

} // namespace

TEST_CASE("a sequence that neither waits nor is over is reported where it was started") {
    const test::fault_catcher faults;
    courier::subscriber in{"keeper"};
    in.start(astray());
    CHECK(faults.told_once({"[courier.sequence-lost]"}));
    CHECK(faults.caught()[0].what.starts_with("a sequence of 'keeper' came back without waiting"));
}
#endif
