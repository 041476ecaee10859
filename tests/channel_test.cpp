#include "support.hpp"

using courier::channel;
using courier::subscription;
using test::Dawn;
using test::Moored;

namespace {

int free_calls = 0;
void on_moored(const Moored& m) {
    free_calls += m.cargo;
}
void on_anything() {
    ++free_calls;
}

struct logbook {
    int landed = 0;
    int times = 0;
    void on_moored(const Moored& m) { landed += m.cargo; }
    void on_anything() { ++times; }
    void on_moored_const(const Moored& m) const { *elsewhere += m.cargo; }
    int* elsewhere = nullptr;
};

} // namespace

TEST_CASE("contracts 1, 2 and 3: the order, and who comes and goes in the middle of a publish") {
    constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
    channel<Dawn> dawn{"watch.dawn"};
    test::trace heard;
    subscription third;
    subscription added;
    const subscription second = dawn.subscribe([&] {
        heard.push_back(2);
        third.end();
        if (!added.live()) {
            added = dawn.subscribe([&] { heard.push_back(4); });
        }
    });
    third = dawn.subscribe([&] { heard.push_back(3); });
    const subscription first = dawn.subscribe([&] { heard.push_back(1); }, {.stage = rules});
    CHECK(dawn.publish().served() == 2);
    CHECK(dawn.publish().served() == 3);
    CHECK(heard == test::trace{1, 2, 1, 2, 4});
}

TEST_CASE("handlers may be lambdas, functions and member functions, and may ignore the payload") {
    channel<Moored> moored{"harbour.moored"};
    logbook book;
    int elsewhere = 0;
    book.elsewhere = &elsewhere;
    free_calls = 0;
    int by_value = 0;
    int kept = 0;
    const subscription all[] = {
        moored.subscribe([&](Moored m) { by_value += m.cargo; }),
        moored.subscribe([&kept, count = 0](const Moored&) mutable { kept = ++count; }),
        moored.subscribe(on_moored),
        moored.subscribe(&on_anything),
        moored.subscribe<&on_moored>(),
        moored.subscribe<&on_anything>(),
        moored.subscribe<&logbook::on_moored>(book),
        moored.subscribe<&logbook::on_anything>(book),
        moored.subscribe<&logbook::on_moored_const>(book),
        moored.subscribe(std::function<void(const Moored&)>{[&](const Moored& m) { by_value += m.cargo; }}),
        moored.subscribe(std::ref(on_anything)),
    };
    CHECK(moored.publish({.boat = 1, .cargo = 10}).served() == std::size(all));
    CHECK(moored.publish({.boat = 1, .cargo = 10}).served() == std::size(all));
    CHECK(by_value == 40);
    CHECK(kept == 2);
    CHECK(free_calls == 2 * (10 + 1 + 10 + 1 + 1));
    CHECK(book.landed == 20);
    CHECK(book.times == 2);
    CHECK(elsewhere == 20);
}

TEST_CASE("contract 9: move-only payloads are delivered without a copy") {
    struct Sealed {
        std::unique_ptr<int> number;
    };
    channel<Sealed> sealed{"harbour.sealed"};
    const int* address = nullptr;
    const subscription s = sealed.subscribe([&](const Sealed& letter) { address = letter.number.get(); });
    const Sealed letter{std::make_unique<int>(5)};
    sealed.publish(letter);
    CHECK(address == letter.number.get());
}

TEST_CASE("captures of every size and alignment survive") {
    channel<Dawn> dawn{"watch.dawn"};
    std::string text = "a text that is too long for the small string optimisation, surely";
    struct alignas(64) wide {
        unsigned char bytes[128] = {1, 2, 3};
    };
    std::string heard;
    int sum = 0;
    bool aligned = false;
    const subscription all[] = {
        dawn.subscribe([&heard, text] { heard = text; }),
        dawn.subscribe([&sum, w = wide{}, &aligned] {
            sum += w.bytes[2];
            aligned = reinterpret_cast<std::uintptr_t>(&w) % 64 == 0;
        }),
        dawn.subscribe([&sum, p = std::make_unique<int>(7)] { sum += *p; }),
    };
    dawn.publish();
    CHECK(heard == text);
    CHECK(sum == 10);
    CHECK(aligned);
}

TEST_CASE("captured state is destroyed once, when the subscription ends") {
    channel<Dawn> dawn{"watch.dawn"};
    auto token = std::make_shared<int>(1);
    subscription s = dawn.subscribe([token] {});
    subscription large = dawn.subscribe([token, filler = std::array<char, 100>{}] { (void)filler; });
    CHECK(token.use_count() == 3);
    s.end();
    CHECK(token.use_count() == 2);
    large = {};
    CHECK(token.use_count() == 1);
}

TEST_CASE("an empty handler is refused, not called") {
    test::fault_catcher faults;
    channel<Dawn> dawn{"watch.dawn"};
    void (*none)() = nullptr;
    const subscription a = dawn.subscribe(none);
    const subscription b = dawn.subscribe(std::function<void()>{});
    CHECK_FALSE(a.live());
    CHECK_FALSE(b.live());
    CHECK(dawn.publish().served() == 0);
    REQUIRE(faults.caught().size() == 2);
    CHECK(faults.caught()[0].code == courier::fault_code::empty_handler);
    CHECK(test::contains(faults.caught()[0].text(), "'watch.dawn' is empty"));
}

TEST_CASE("a handler whose construction throws leaves the channel as it was") {
    struct awkward {
        awkward() = default;
        awkward(awkward&& other) : countdown(other.countdown) {
            if (--*countdown == 0) {
                throw std::runtime_error("no");
            }
        }
        void operator()(const Moored&) {}
        int* countdown = nullptr;
        std::array<char, 80> filler{};
    };
    channel<Moored> moored{"harbour.moored"};
    const subscription before = moored.subscribe([] {});
    int countdown = 2; // the first move is into the parameter, the second into the slot
    awkward handler;
    handler.countdown = &countdown;
    CHECK_THROWS_AS((void)moored.subscribe(std::move(handler)), std::runtime_error);
    CHECK(moored.size() == 1);
    CHECK(moored.publish({}).served() == 1);
}
