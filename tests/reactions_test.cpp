#include "support.hpp"

using namespace std::chrono_literals;

namespace {

struct Bitten {
    int crates = 0;
};

} // namespace

TEST_CASE("reactions are attached to one object after another, and ended with each") {
    courier::addressed_channel<Bitten, int> bitten{"bitten"};
    courier::outbox later;
    courier::timetable hours{later};
    std::string log;
    courier::reactions<int> mast{"mast", [&](courier::subscriber& in, int barge) {
                                     in.subscribe(bitten.at(barge), [&log, barge] { log += std::to_string(barge); });
                                     in.every(hours, 1s, [&log] { log += "."; });
                                 }};
    CHECK(mast.attach(3));
    CHECK_FALSE(mast.attach(3));
    CHECK(mast.attach(4));
    CHECK(mast.size() == 2);
    bitten.publish_to(3, {});
    bitten.publish_to(4, {});
    CHECK(std::exchange(log, {}) == "34");
    CHECK(mast.of(3)->name() == "mast");
    mast.of(3)->pause();
    bitten.publish_to(3, {});
    CHECK(log.empty());
    CHECK(mast.detach(4));
    CHECK_FALSE(mast.detach(4));
    CHECK(mast.of(4) == nullptr);
    bitten.publish_to(4, {});
    CHECK(log.empty());
    mast.of(3)->resume();
    hours.advance(1s);
    later.deliver();
    CHECK(log == ".");
}

TEST_CASE("reactions follow a group") {
    courier::addressed_channel<Bitten, int> bitten{"bitten"};
    courier::group<int> convoy{"convoy"};
    auto three = convoy.join(3);
    int heard = 0;
    auto mast = std::make_unique<courier::reactions<int>>(
        "mast", [&](courier::subscriber& in, int barge) { in.subscribe(bitten.at(barge), [&] { ++heard; }); });
    mast->follow(convoy);
    auto four = convoy.join(4);
    bitten.publish({});
    CHECK(heard == 2);
    three.end();
    bitten.publish({});
    CHECK(heard == 3);
    mast.reset();
    auto five = convoy.join(5);
    bitten.publish({});
    CHECK(heard == 3);
    CHECK(bitten.size() == 0);
}

TEST_CASE("reactions follow objects that announce themselves, by reference") {
    struct barge {
        explicit barge(courier::lifecycle_channels<barge>& all, int number_)
            : number(number_), life(*this, all, {.awake = true}) {}
        int number;
        courier::channel<Bitten> bitten{"bitten"};
        courier::lifecycle<barge> life;
    };
    courier::lifecycle_channels<barge> barges{"barge"};
    std::string log;
    courier::reactions<barge&> mast{"mast", [&](courier::subscriber& in, barge& which) {
                                        in.subscribe(which.bitten, [&] { log += std::to_string(which.number); });
                                    }};
    mast.follow(barges);
    auto one = std::make_unique<barge>(barges, 1);
    auto two = std::make_unique<barge>(barges, 2);
    one->bitten.publish({});
    two->bitten.publish({});
    CHECK(log == "12");
    CHECK(mast.size() == 2);
    one.reset();
    CHECK(mast.size() == 1);
}

TEST_CASE("a reaction may detach its own object, and a set that throws is not attached") {
    courier::addressed_channel<Bitten, int> bitten{"bitten"};
    std::unique_ptr<courier::reactions<int>> mast;
    mast = std::make_unique<courier::reactions<int>>("mast", [&](courier::subscriber& in, int barge) {
        if (barge == 13) {
            throw std::runtime_error("unlucky");
        }
        in.subscribe(bitten.at(barge), [&, barge] { mast->detach(barge); });
        in.subscribe(bitten.at(barge), [&] { mast.reset(); });
    });
    CHECK_THROWS_AS(mast->attach(13), std::runtime_error);
    CHECK(mast->size() == 0);
    mast->attach(3);
    bitten.publish_to(3, {});
    CHECK(mast->size() == 0);
    CHECK(bitten.size() == 0);
}
