#include "ledger_scene.hpp"

namespace {

struct bite {
    int teeth;
    bool operator==(const bite&) const = default;
};
using sent = std::pair<std::optional<int>, int>;
using bites = courier::addressed_channel<bite, int>;
using several = std::span<const courier::addressed_payload<bite, int>>;

constexpr courier::stage early = courier::before(courier::ordinary, "early");

void add(std::vector<sent>& to, several all) {
    for (const auto& [address, what] : all) {
        to.emplace_back(address, what.teeth);
    }
}

/// A few random rounds, in the order in which they were posted; some are for everyone.
struct rounds {
    std::mt19937 random;
    courier::outbox_options options = {};
    bites channel{"bitten"};
    courier::outbox box{"frame", options};
    courier::addressed_poster<bite, int> out{box, channel};
    courier::subscriber in{"jaws"};
    std::vector<sent> posted;

    int roll(int sides) { return static_cast<int>(random() % static_cast<unsigned>(sides)); }
    void post_some() {
        for (int i = roll(20); i > 0; --i) {
            const int teeth = roll(1000);
            if (roll(8) == 0) {
                out.post({teeth});
                posted.emplace_back(std::nullopt, teeth);
            } else {
                const int to = roll(5) - 2;
                out.post_to(to, {teeth});
                posted.emplace_back(to, teeth);
            }
        }
    }
};

} // namespace

TEST_CASE("a round's posts to addresses reach a handler of spans in one piece, in their order, without a copy") {
    bites channel{"bitten"};
    courier::outbox box{"frame"};
    const courier::addressed_poster<bite, int> out{box, channel};
    courier::subscriber in{"jaws"};
    std::vector<std::size_t> pieces;
    std::vector<sent> seen;
    in.subscribe(channel, [&](several all) {
        pieces.push_back(all.size());
        add(seen, all);
    });
    for (int i = 0; i < 1000; ++i) {
        out.post_to(i % 7, {i});
    }
    CHECK(box.deliver().delivered == 1000);
    CHECK(pieces == std::vector<std::size_t>{1000});
    CHECK(channel.vacant_publishes() == 1000);
    channel.publish_to(3, {-1}); // one at a time where it is one
    channel.publish({-2});
    CHECK(pieces == std::vector<std::size_t>{1000, 1, 1});
    CHECK(seen[999] == sent{999 % 7, 999});
    CHECK(seen[1000] == sent{3, -1});
    CHECK(seen[1001] == sent{std::nullopt, -2});
}

TEST_CASE("a round may come address by address, in the order of posts for each") {
    for (unsigned seed = 0; seed < 100; ++seed) {
        CAPTURE(seed);
        rounds r{.random = std::mt19937(seed), .options = {courier::round_order::by_address}};
        std::optional<courier::ledger> books;
        if (r.roll(2) == 0) {
            books.emplace("books").attach(r.channel);
        }
        std::vector<sent> seen;
        r.in.subscribe(r.channel, [&](several all) { add(seen, all); });
        for (int round = 0; round < 3; ++round) {
            r.post_some();
            r.box.deliver();
            for (auto row = r.posted.begin(); row != r.posted.end();) { // one for everyone keeps its place
                const auto end = std::find_if(row, r.posted.end(), [](const sent& one) { return !one.first; });
                std::stable_sort(row, end, [](const sent& a, const sent& b) { return a.first < b.first; });
                row = end == r.posted.end() ? end : end + 1;
            }
            CHECK(std::exchange(seen, {}) == std::exchange(r.posted, {}));
        }
    }
    courier::outbox box{"frame", {.order = courier::round_order::by_address}};
    courier::addressed_channel<bite, std::string> named{"bitten"};
    std::string heard;
    const courier::subscription in =
        named.subscribe([&](const std::string& at, const bite& b) { heard += at + std::to_string(b.teeth) + " "; });
    for (int i = 0; i < 6; ++i) {
        box.post_to(named, i % 2 == 0 ? "mole" : "gate", {i});
    }
    box.deliver();
    CHECK((heard == "mole0 mole2 mole4 gate1 gate3 gate5 " || heard == "gate1 gate3 gate5 mole0 mole2 mole4 "));
}

TEST_CASE("handlers of spans hear what a handler of single payloads hears, with a ledger and without") {
    for (unsigned seed = 0; seed < 200; ++seed) {
        CAPTURE(seed);
        rounds r{.random = std::mt19937(seed)};
        std::optional<courier::ledger> books;
        if (r.roll(2) == 0) {
            books.emplace("books").attach(r.channel);
        }
        std::vector<sent> singly;
        std::vector<sent> together;
        std::vector<sent> picked;
        int at_two = 0;
        const bool stops = r.roll(2) == 0;
        const bool fails = r.roll(3) == 0;
        const bool is_alone = r.roll(4) == 0;
        const auto is_stopped = [=](const bite& b) { return stops && b.teeth % 5 == 0; };
        if (!is_alone) {
            r.in.subscribe(
                r.channel,
                [=](const bite& b) { return is_stopped(b) ? courier::verdict::stop : courier::verdict::go_on; },
                {.stage = early});
            r.in.subscribe(r.channel, [&](const int* to, const bite& b) {
                singly.emplace_back(to != nullptr ? std::optional(*to) : std::nullopt, b.teeth);
            });
            r.in.subscribe(r.channel.at(2), [&] { ++at_two; });
        }
        courier::subscriber flock{"flock"};
        flock.subscribe(r.channel, [&](several all) {
            add(together, all);
            if (fails) {
                throw std::runtime_error("too many teeth");
            }
        });
        const auto key = r.in.subscribe(r.channel, [&](several all) { add(picked, all); },
                                        {.condition = [](const bite& b) { return b.teeth % 2 == 0; }});
        for (int round = 0; round < 4; ++round) {
            r.post_some();
            if (round == 3) {
                r.in.end(key);
            }
            while (r.box.waiting() != 0) {
                try {
                    r.box.deliver({.payloads = 7});
                } catch (const std::runtime_error&) {
                    CHECK(fails);
                }
            }
        }
        std::vector<sent> expected;
        int expected_at_two = 0;
        for (const sent& one : r.posted) {
            if (is_alone || !is_stopped({one.second})) {
                expected.push_back(one);
                expected_at_two += !is_alone && (!one.first || *one.first == 2) ? 1 : 0;
            }
        }
        CHECK(together == expected);
        if (books) {
            const courier::books all = books->read();
            CHECK(ledger_scene::of(all, "flock").turns[courier::turn::served] == expected.size());
            CHECK(ledger_scene::of(all, "flock").turns[courier::turn::stopped] == r.posted.size() - expected.size());
        }
        CHECK(singly == (is_alone ? std::vector<sent>{} : expected));
        CHECK(at_two == expected_at_two);
        std::erase_if(expected, [](const sent& one) { return one.second % 2 != 0; });
        CHECK(std::equal(picked.begin(), picked.end(), expected.begin()));
    }
}
