// What payloads that come from other threads may be, and do; run under the thread sanitizer, too.
#include "inbox_scene.hpp"

using namespace inbox_scene;

TEST_CASE("payloads of any shape travel: moved only, large, with text, for an address") {
    scene s;
    channel<Chart> charts{"charts"};
    channel<Note> notes{"notes"};
    courier::addressed_channel<Hailed> hailed{"hailed"};
    int sum = 0;
    std::string text;
    const courier::subscription a = charts.subscribe([&](const Chart& c) { sum += *c.sheet; });
    const courier::subscription b = notes.subscribe([&](const Note& n) { text += n.text; });
    const courier::witness third{hailed.at(3)};
    std::thread([chart = inlet<Chart>{s.arrivals, charts}, note = inlet<Note>{s.arrivals, notes},
                 hail = courier::addressed_inlet<Hailed>{s.arrivals, hailed}] {
        chart.send(Chart{7});
        note.send({"a text that is longer than what a string keeps within itself"});
        hail.send_to(3, {1});
        hail.send_to(4, {2});
        hail.send({3});
    }).join();
    CHECK(s.step() == 5);
    CHECK(sum == 7);
    CHECK(text.size() == 60);
    CHECK(third.count() == 2);
    CHECK(alive == 0);
    CHECK_FALSE(inlet<Chart>{}.send(Chart{1}));
}

TEST_CASE("an inbox may be bounded, and a poster's policy holds for what arrives") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    inbox arrivals{later, "arrivals", {.limit = 10}};
    const courier::poster<Flashed> latest{later, flashed, {.keep = courier::keep::one}};
    const courier::witness seen{flashed};
    const inlet<Flashed> out{arrivals, latest};
    int taken = 0;
    for (int i = 0; i < 15; ++i) {
        taken += out.send({.number = i}) ? 1 : 0;
    }
    CHECK(taken == 10);
    CHECK(arrivals.turned_away() == 5);
    arrivals.take_in();
    later.deliver();
    CHECK(seen.count() == 1);
    CHECK(seen.latest().number == 9);
    CHECK(out.send({}));
}

TEST_CASE("inlets come and go without leaving anything behind") {
    scene s;
    const courier::witness seen{s.flashed};
    for (int i = 0; i < 100; ++i) {
        std::thread([out = inlet<Flashed>{s.arrivals, s.flashed}] { out.send({}); }).join();
        s.step();
    }
    CHECK(seen.count() == 100);
    CHECK(s.later.list().size() == 1);
}

TEST_CASE("payloads of any size and alignment lie side by side in a log") {
    struct alignas(32) Wide {
        std::array<std::uint64_t, 8> words{};
    };
    struct Sheet {
        std::array<unsigned char, 100000> bytes{};
    };
    scene s;
    channel<Wide> wide{"wide"};
    auto sheets = std::make_unique<channel<Sheet>>("sheets");
    bool aligned = true;
    std::uint64_t words = 0;
    std::size_t bytes = 0;
    const courier::subscription a = wide.subscribe([&](const Wide& w) {
        aligned = aligned && reinterpret_cast<std::uintptr_t>(&w) % 32 == 0;
        words += w.words[7];
    });
    const courier::subscription b = sheets->subscribe([&](const Sheet& one) { bytes += one.bytes[99999]; });
    const inlet<Wide> wide_out{s.arrivals, wide};
    const inlet<Sheet> sheet_out{s.arrivals, *sheets};
    const inlet<Flashed> out{s.arrivals, s.flashed};
    const courier::witness seen{s.flashed};
    for (int round = 0; round < 3; ++round) {
        for (std::uint64_t i = 0; i < 100; ++i) {
            out.send({.number = static_cast<int>(i)});
            wide_out.send({{0, 0, 0, 0, 0, 0, 0, i}});
            if (i % 20 == 0) {
                auto sheet = std::make_unique<Sheet>();
                sheet->bytes[99999] = 1;
                sheet_out.send(*sheet);
            }
        }
        CHECK(s.step() == 205);
    }
    CHECK(aligned);
    CHECK(words == 3 * 4950);
    CHECK(bytes == 15);
    CHECK(seen.count() == 300);
}

TEST_CASE("a payload's move that throws has sent nothing; one that sends, too, sends both") {
    scene s;
    channel<Heavy> heavies{"heavies"};
    int sum = 0;
    const courier::subscription in = heavies.subscribe([&](const Heavy& h) { sum += h.number; });
    const courier::witness seen{s.flashed};
    const inlet<Flashed> light{s.arrivals, s.flashed};
    const inlet<Heavy> out{s.arrivals, heavies};
    out.send(Heavy{1});
    for (int moves = 1;; ++moves) {
        Heavy::moves_left = moves;
        try {
            out.send(Heavy{-1});
            break; // as many moves as it takes
        } catch (const std::runtime_error&) {
            CHECK(s.arrivals.waiting() == 1);
        }
    }
    Heavy::moves_left = 100;
    CHECK(s.step() == 2);
    CHECK(sum == 0);
    out.send(Heavy{5, &light});
    CHECK(s.step() >= 2);
    s.step();
    CHECK(sum == 5);
    CHECK(seen.count() >= 1);
}

#if !defined(__MINGW32__) // whose threads free the memory of such objects before they destroy them
TEST_CASE("sent by destructors of thread_local objects, after the thread's log has ended") {
    struct last_words {
        std::optional<inlet<Flashed>> out;
        ~last_words() {
            for (int i = 0; out && i < 3; ++i) {
                out->send({.number = i});
            }
        }
    };
    scene s;
    const courier::witness seen{s.flashed};
    for (int round = 0; round < 10; ++round) {
        std::thread([out = inlet<Flashed>{s.arrivals, s.flashed}] {
            thread_local last_words words; // made before the log is, so it ends after it
            words.out = out;
            words.out->send({.number = 7});
        }).join();
        CHECK(s.step() == 4);
    }
    CHECK(seen.count() == 40);
}
#endif

TEST_CASE("many inboxes on one thread, made and ended in any number") {
    channel<Flashed> flashed{"flashed"};
    outbox later;
    int heard = 0;
    const courier::subscription in = flashed.subscribe([&](const Flashed& f) { heard += f.number; });
    std::vector<std::unique_ptr<inbox>> inboxes;
    std::vector<inlet<Flashed>> outs;
    for (int i = 0; i < 50; ++i) {
        inboxes.push_back(std::make_unique<inbox>(later));
        outs.emplace_back(*inboxes.back(), flashed);
    }
    for (int round = 0; round < 3; ++round) {
        for (const inlet<Flashed>& out : outs) {
            out.send({.number = 1});
        }
    }
    for (int i = 0; i < 1000; ++i) {
        inbox brief{later};
        inlet<Flashed>{brief, flashed}.send({.number = 100000});
    }
    for (const auto& one : inboxes) {
        CHECK(one->take_in() == 3);
    }
    later.deliver();
    CHECK(heard == 150);
}

TEST_CASE("the policy of a poster may end the inbox while it takes in") {
    auto s = std::make_unique<scene>();
    channel<Chart> charts{"charts"};
    std::unique_ptr<inbox> arrivals = std::make_unique<inbox>(s->later);
    const courier::poster<Chart> one{
        s->later, charts, {.keep = courier::keep::one, .combine = [&](Chart&, const Chart&) {
                               CHECK(arrivals->take_in() == 0); // it is being done
                               arrivals.reset();
                           }}};
    const inlet<Chart> out{*arrivals, one};
    for (int i = 0; i < 5; ++i) {
        out.send(Chart{i});
    }
    CHECK(arrivals->take_in() == 2);
    CHECK_FALSE(out.send(Chart{9}));
    CHECK(one.waiting() == 1);
    CHECK(alive == 1);
}
