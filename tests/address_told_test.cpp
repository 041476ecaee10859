// Handlers that take the address.
#include "support.hpp"

namespace {

struct Bitten {
    int crates = 0;
};
using bitten_channel = courier::addressed_channel<Bitten, int>;

struct told_log {
    std::string text;
    void note(int barge, int crates) { text += std::to_string(barge) + ":" + std::to_string(crates) + " "; }
    [[nodiscard]] std::string taken() { return std::exchange(text, {}); }
    void on_bitten(int barge, const Bitten& b) { note(barge, b.crates); }
};

} // namespace

TEST_CASE("a handler that listens to all may take the address") {
    bitten_channel bitten{"bitten"};
    courier::subscriber in{"board"};
    told_log seen;
    in.subscribe(bitten, [&seen](int barge, const Bitten& b) { seen.note(barge, b.crates); });
    CHECK(bitten.publish_to(3, {.crates = 2}).served() == 1);
    CHECK(bitten.publish_to(4, {.crates = 1}).served() == 1);
    CHECK(seen.taken() == "3:2 4:1 ");
    SUBCASE("what has no address does not come") {
        CHECK(bitten.publish({.crates = 9}).served() == 0);
        courier::group<int> convoy;
        const auto a = convoy.join(3);
        CHECK(bitten.publish_to(convoy, {.crates = 9}).served() == 0);
        CHECK(seen.taken().empty());
    }
    SUBCASE("a pointer is null for that") {
        in.subscribe(bitten, [&seen](const int* barge, const Bitten& b) {
            seen.note(barge != nullptr ? *barge : -1, b.crates);
        });
        bitten.publish({.crates = 9});
        CHECK(seen.taken() == "-1:9 ");
        bitten.publish_to(5, {.crates = 1});
        CHECK(seen.taken() == "5:1 5:1 ");
    }
    SUBCASE("what a handler publishes to everyone has none") {
        in.subscribe(bitten.at(6), [&](const Bitten& b) {
            if (b.crates < 9) {
                bitten.publish({.crates = 9});
                bitten.publish_to(7, {.crates = 9});
            }
        });
        bitten.publish_to(6, {.crates = 1});
        CHECK(seen.taken() == "6:1 7:9 ");
    }
}

TEST_CASE("a handler at an address may take it, and hears what is for everyone with its own") {
    bitten_channel bitten{"bitten"};
    courier::subscriber in{"board"};
    told_log seen;
    in.subscribe<&told_log::on_bitten>(bitten.at(3), seen);
    bitten.publish_to(3, {.crates = 2});
    bitten.publish_to(4, {.crates = 2});
    bitten.publish({.crates = 1});
    CHECK(seen.taken() == "3:2 3:1 ");
}

TEST_CASE("addresses are told of what is posted, kept and ruled on") {
    bitten_channel bitten{"bitten"};
    told_log seen;
    courier::subscriber in{"board"};
    SUBCASE("posted") {
        courier::outbox later;
        in.subscribe<&told_log::on_bitten>(bitten, seen);
        later.post_to(bitten, 3, {.crates = 1});
        later.post_to(bitten, 4, {.crates = 2});
        later.deliver();
        CHECK(seen.taken() == "3:1 4:2 ");
        courier::group<int> convoy;
        const auto four = convoy.join(4);
        const auto three = convoy.join(3);
        CHECK(later.post_to(bitten, convoy, {.crates = 6}) == 2);
        const courier::addressed_poster<Bitten, int> some{later, bitten, {.limit = 1}};
        CHECK(some.post_to(convoy, {.crates = 7}) == 1);
        later.deliver();
        CHECK(seen.taken() == "4:6 3:6 4:7 ");
    }
    SUBCASE("kept") {
        bitten.retain_latest();
        bitten.publish_to(3, {.crates = 1});
        bitten.publish_to(4, {.crates = 2});
        bitten.publish({.crates = 5});
        bitten.publish_to(3, {.crates = 3});
        in.subscribe<&told_log::on_bitten>(bitten, seen, {.retained = true});
        CHECK(seen.taken() == "4:2 3:3 ");
    }
    SUBCASE("ruled on") {
        in.subscribe(bitten, [](int barge, const Bitten&) {
            return barge == 3 ? courier::verdict::stop : courier::verdict::go_on;
        });
        in.subscribe<&told_log::on_bitten>(bitten, seen);
        CHECK(bitten.publish_to(3, {.crates = 1}).stopped());
        CHECK_FALSE(bitten.publish({.crates = 1}).stopped());
        bitten.publish_to(4, {.crates = 1});
        CHECK(seen.taken() == "4:1 ");
    }
}

TEST_CASE("addresses are told on channels with a ledger") {
    bitten_channel bitten{"bitten"};
    told_log seen;
    courier::subscriber in{"board"};
    courier::ledger night{"night"};
    night.attach_everything();
    in.subscribe<&told_log::on_bitten>(bitten, seen);
    bitten.publish_to(3, {.crates = 1});
    bitten.publish({.crates = 1});
    CHECK(seen.taken() == "3:1 ");
    CHECK(night.read().channels.at(0).deliveries == 1);
}

TEST_CASE("addresses that are texts are told as well") {
    courier::addressed_channel<Bitten, std::string> bitten{"bitten"};
    std::string seen;
    const auto s = bitten.subscribe([&](const std::string& barge, const Bitten&) { seen += barge; });
    bitten.publish_to("Dorothea", {});
    CHECK(seen == "Dorothea");
}

TEST_CASE("pipelines and waits can have the address") {
    bitten_channel bitten{"bitten"};
    told_log seen;
    courier::subscriber in{"board"};
    in.subscribe(courier::with_address(bitten) | courier::filter([](const auto& sent) { return sent.address > 3; }),
                 [&](const courier::sent_to<Bitten, int>& sent) { seen.note(sent.address, sent.payload.crates); });
    in.start([](const bitten_channel& from, told_log& to) -> courier::sequence<> {
        const auto first = co_await courier::next(courier::with_address(from));
        to.note(first.address + 100, first.payload.crates);
    }(bitten, seen));
    bitten.publish({.crates = 9});
    bitten.publish_to(3, {.crates = 2});
    bitten.publish_to(4, {.crates = 1});
    CHECK(seen.taken() == "103:2 4:1 ");
}
