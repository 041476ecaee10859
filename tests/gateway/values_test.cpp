// What goes out.
#include "support.hpp"

using namespace test;
using courier::gateway;

namespace {

std::vector<int> crates_in(const std::vector<message>& all) {
    std::vector<int> made;
    for (const message& one : all) {
        if (one.subject() == "harbour.landed") {
            made.push_back(one.at("/data/crates"));
        }
    }
    return made;
}

std::vector<int> from_to(int first, int past) {
    std::vector<int> made;
    for (int i = first; i < past; ++i) {
        made.push_back(i);
    }
    return made;
}

} // namespace

TEST_CASE("a reader is told the current states first, and then what happens") {
    harbour reef;
    courier::formula<int> lost{"harbour.lost", [&] { return 100 - reef.crates.read(); }};
    gateway out{{.name = "gannet reef"}};
    out.show(reef.crates);
    out.show(lost);
    courier::announced_list<int> berths{"harbour.berths", {3}};
    out.show(berths);
    out.show(reef.landed);
    out.show(reef.to_berth);
    out.take_in();
    std::atomic<bool> reads{false};
    std::vector<message> all;
    bool done = false;
    const bool in_time = frames_during(
        [&] {
            if (reads && !done) {
                done = true;
                reef.landed.publish({.barge = 2, .crates = 12});
                reef.crates.set(47);
                berths.add(5);
                reef.to_berth.publish_to(3, {.barge = 4, .crates = 1});
            }
            out.take_in();
        },
        [&] {
            all = read_stream(out, "/events", "", [&](const auto& so_far) {
                reads = so_far.size() >= 3;
                return so_far.size() == 8;
            });
        });
    REQUIRE(in_time);
    REQUIRE(all.size() == 8);
    const auto whole = [](const message& m) { return m.subject() == "harbour.berths"; };
    CHECK(all[2].data["data"]["value"] == nlohmann::json{3}); // a list is shown as a whole
    CHECK(std::find_if(all.rbegin(), all.rend(), whole)->data["data"]["value"] == nlohmann::json{3, 5});
    all.erase(std::remove_if(all.begin(), all.end(), whole), all.end());
    CHECK(all[0].subject() == "harbour.crates");
    CHECK(all[0].type() == "wired-courier.value");
    CHECK(all[0].at("/data/value") == 35);
    CHECK(all[1].subject() == "harbour.lost");
    CHECK(all[1].at("/data/value") == 65);
    CHECK(all[2].subject() == "harbour.landed");
    CHECK(all[2].type() == "wired-courier.payload");
    CHECK(all[2].data["data"] == nlohmann::json{{"barge", 2}, {"crates", 12}});
    CHECK(all[2].data["source"] == "/gannet%20reef");
    CHECK(all[2].data["specversion"] == "1.0");
    CHECK(all[2].data["id"] == all[2].id);
    CHECK(all[3].at("/data/value") == 47);
    CHECK(all[4].at("/data/value") == 53);
    CHECK(all[5].data["address"] == "3");
}

TEST_CASE("a reader that names channels hears of those only, and of an unknown one it is told") {
    harbour reef;
    gateway out;
    out.show(reef.crates);
    out.show(reef.landed);
    out.take_in();
    std::vector<message> all;
    answer wrong;
    std::atomic<bool> reads{false};
    frames_during(
        [&] {
            if (reads) {
                reef.crates.add(1);
                reef.landed.publish({.barge = 1, .crates = 1});
            }
            out.take_in();
        },
        [&] {
            wrong = get(out, "/events?channel=harbour.landet");
            reads = true;
            all = read_stream(out, "/events?channel=harbour.landed", "",
                              [](const auto& so_far) { return so_far.size() == 3; });
        });
    CHECK(wrong.status == 404);
    CHECK(wrong.body["type"] == "courier.gateway.unknown-path");
    REQUIRE(all.size() == 3);
    for (const message& one : all) {
        CHECK(one.subject() == "harbour.landed");
    }
}

TEST_CASE("a reader that lost its connection goes on where it stopped, without loss and nothing twice") {
    harbour reef;
    gateway out;
    out.show(reef.landed);
    std::vector<message> all;
    std::atomic<bool> reads{false};
    int next = 0;
    const bool in_time = frames_during(
        [&] {
            if (reads && next < 3000) {
                reef.landed.publish({.barge = 1, .crates = next++});
            }
            out.take_in();
        },
        [&] {
            std::string last;
            while (all.size() < 200) {
                reads = true;
                const std::size_t before = all.size();
                for (message& one :
                     read_stream(out, "/events", last, [](const auto& some) { return some.size() >= 20; })) {
                    all.push_back(std::move(one));
                }
                REQUIRE(all.size() > before);
                last = all.back().id;
            }
        });
    REQUIRE(in_time);
    const std::vector<int> numbers = crates_in(all);
    CHECK(numbers == from_to(numbers.front(), numbers.front() + static_cast<int>(numbers.size())));
}

TEST_CASE("one that stayed away for too long is told how much it missed, and gets the current states at the end") {
    harbour reef;
    gateway out{{.max_remembered = 20000}};
    out.show(reef.crates);
    out.show(reef.landed);
    reef.landed.publish({.barge = 1, .crates = 0});
    out.take_in();
    std::vector<message> first;
    frames_during([&] { out.take_in(); },
                  [&] {
                      first = read_stream(out, "/events", "",
                                          [](const auto& all) { return !all.empty() && !all.back().id.empty(); });
                  });
    REQUIRE(!first.empty());
    for (int i = 1; i < 2000; ++i) {
        reef.crates.set(1000 + i);
        reef.landed.publish({.barge = 1, .crates = i});
        if (i % 10 == 0) {
            out.take_in();
        }
    }
    std::vector<message> all;
    frames_during([&] { out.take_in(); },
                  [&] {
                      for (int k = 0; k < 1000 && out.report().events < 4000; ++k) {
                          std::this_thread::sleep_for(std::chrono::milliseconds(10)); // until all is written
                      }
                      all = read_stream(out, "/events", first.back().id, [](const auto& some) {
                          return some.size() > 2 && some.back().at("/data/value") == 2999 &&
                                 some[some.size() - 2].at("/data/crates") == 1999;
                      });
                  });
    REQUIRE(all.size() > 2);
    CHECK(all[0].event == "missed");
    CHECK(all[0].type() == "wired-courier.missed");
    const std::vector<int> numbers = crates_in(all);
    REQUIRE(!numbers.empty());
    CHECK(numbers == from_to(numbers.front(), 2000));
    const auto events = static_cast<int>(all[0].at("/data/events"));
    CHECK(events > 1000);
    CHECK(all.back().at("/data/value") == 2999);

    std::vector<message> of_another;
    frames_during([&] { out.take_in(); },
                  [&] {
                      of_another =
                          read_stream(out, "/events", "00000000-7", [](const auto& some) { return some.size() >= 2; });
                  });
    REQUIRE(of_another.size() >= 2);
    CHECK(of_another[0].event == "missed");
}

TEST_CASE("what a channel retains is shown to those who come later, and sources may end first") {
    gateway out;
    {
        courier::channel<Hailed> hailed{"harbour.hailed"};
        hailed.retain_latest();
        out.show(hailed);
        hailed.publish({.by = "barge 3\n\"and\" crew", .how = tone::prolonged});
        out.take_in();
    }
    std::vector<message> all;
    frames_during([&] { out.take_in(); },
                  [&] {
                      std::this_thread::sleep_for(std::chrono::milliseconds(50));
                      all = read_stream(out, "/events", "", [](const auto& some) { return some.size() == 1; });
                  });
    REQUIRE(all.size() == 1);
    CHECK(all[0].data["data"]["by"] == "barge 3\n\"and\" crew");
    CHECK(all[0].data["data"]["how"] == "prolonged");
}

TEST_CASE("what there is no room for is left out, counted and told") {
    harbour reef;
    gateway out{{.max_waiting = 4000}};
    out.show(reef.crates); // which a reader is told first
    out.show(reef.landed);
    std::atomic<bool> reads{false};
    std::vector<message> all;
    bool flooded = false;
    const bool in_time = frames_during(
        [&] {
            if (reads && !flooded) {
                flooded = true;
                for (int i = 0; i < 5000; ++i) { // in one frame
                    reef.landed.publish({.barge = 1, .crates = i});
                }
            } else if (flooded) {
                reef.landed.publish({.barge = 1, .crates = -1});
            }
            out.take_in();
        },
        [&] {
            all = read_stream(out, "/events", "", [&](const auto& some) {
                reads = true;
                return some.back().at("/data/crates") == -1;
            });
        });
    REQUIRE(in_time);
    std::size_t told = 0;
    for (const message& one : all) {
        told += one.event == "missed" ? static_cast<std::size_t>(one.at("/data/events")) : 0U;
    }
    CHECK(told > 4000);
    CHECK(out.report().left_out == told);
    CHECK(crates_in(all).size() - 1 + told == 5000);
}
