// Contract 7: a channel belongs to one thread.
#include "support.hpp"

using courier::channel;
using courier::subscription;
using test::Dawn;

TEST_CASE("every thread may have channels of its own") {
    const auto night = [](int* heard) {
        for (int i = 0; i < 200; ++i) {
            channel<Dawn> dawn{"watch.dawn"};
            const subscription s = dawn.subscribe([&] {
                ++*heard;
                if (*heard % 2 == 1) {
                    dawn.publish();
                }
            });
            dawn.publish();
        }
    };
    int first = 0;
    int second = 0;
    std::thread other(night, &first);
    night(&second);
    other.join();
    CHECK(first == second);
    CHECK(first == 400);
}

TEST_CASE("a channel can be made on one thread and adopted by another") {
    std::unique_ptr<channel<Dawn>> dawn;
    int heard = 0;
    subscription s;
    std::thread loader([&] {
        dawn = std::make_unique<channel<Dawn>>("watch.dawn");
        s = dawn->subscribe([&] { ++heard; });
    });
    loader.join();
    dawn->adopt();
    CHECK(dawn->publish().served() == 1);
    CHECK(heard == 1);
}

#if WIRED_COURIER_CHECKED
namespace {

template <class Use>
std::string misuse_from_elsewhere(Use use) {
    std::string message;
    std::thread elsewhere([&] {
        courier::name_this_thread("loader");
        try {
            use();
        } catch (const courier::fault_error& e) {
            message = e.what();
            CHECK(e.code() == courier::fault_code::wrong_thread);
        }
    });
    elsewhere.join();
    return message;
}

} // namespace

TEST_CASE("contract 7: checked builds catch use from a foreign thread and name both threads") {
    courier::name_this_thread("main");
    channel<Dawn> dawn{"watch.dawn"};
    const courier::publisher<Dawn> watch{dawn};
    const subscription s = dawn.subscribe([] {});

    const std::string published = misuse_from_elsewhere([&] { dawn.publish(); });
    CHECK(test::contains(published, "channel 'watch.dawn' belongs to thread "));
    CHECK(test::contains(published, " 'main' and is published on by "));
    CHECK(test::contains(published, " 'loader'; use it on its own thread only, or hand it over with adopt()"));

    CHECK(test::contains(misuse_from_elsewhere([&] { (void)dawn.subscribe([] {}); }), "is subscribed to by "));
    CHECK(test::contains(misuse_from_elsewhere([&] { watch.publish(); }), "is published on by "));
    CHECK(dawn.size() == 1);
    CHECK(dawn.publish().served() == 1);
}

TEST_CASE("contract 7: ending and pausing from a foreign thread are caught as well") {
    test::fault_catcher faults; // these cannot throw, so the report is all there is
    channel<Dawn> dawn{"watch.dawn"};
    subscription s = dawn.subscribe([] {});
    std::thread elsewhere([&] {
        s.pause();
        s.resume();
        s.end();
    });
    elsewhere.join();
    REQUIRE(faults.caught().size() == 3);
    CHECK(test::contains(faults.caught()[0].text(), "and is paused by "));
    CHECK(test::contains(faults.caught()[1].text(), "and is resumed by "));
    CHECK(test::contains(faults.caught()[2].text(), "and is unsubscribed from by "));
}

TEST_CASE("contract 7: a publish from a foreign thread that hears nobody is caught as well") {
    channel<Dawn> dawn{"watch.dawn"};
    CHECK_FALSE(misuse_from_elsewhere([&] { dawn.publish(); }).empty());
}
#endif
