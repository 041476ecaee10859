// Clients that are hostile, slow or broken: the game goes on, and everything has its bound.
#include "raw_connection.hpp"
#include "support.hpp"

#include <csignal>

using namespace test;
using namespace std::chrono_literals;
using courier::gateway;
using courier::gateway_code;

namespace {

std::string status_of(const std::string& answer) {
    return answer.substr(0, std::string_view("HTTP/1.1 400").size());
}

} // namespace

TEST_CASE("what is no HTTP is refused, and the connection ends") {
    const gateway out;
    const std::string there = "Host: " + out.address().substr(7, out.address().size() - 8) + "\r\n";
    const std::vector<std::pair<std::string, std::string>> all{
        {"\r\n\r\n", "HTTP/1.1 400"},
        {"GET\r\n\r\n", "HTTP/1.1 400"},
        {"GET /about\r\n\r\n", "HTTP/1.1 400"},
        {"get /about HTTP/1.1\r\n\r\n", "HTTP/1.1 400"},
        {"GET /about HTTP/9.9\r\n\r\n", "HTTP/1.1 400"},
        {"GET http://elsewhere/ HTTP/1.1\r\n\r\n", "HTTP/1.1 400"},
        {"GET /a b HTTP/1.1\r\n\r\n", "HTTP/1.1 400"},
        {std::string("GET /\0 HTTP/1.1\r\n\r\n", 19), "HTTP/1.1 400"},
        {"GET / HTTP/1.1\r\nno colon\r\n\r\n", "HTTP/1.1 400"},
        {"GET / HTTP/1.1\r\n: none\r\n\r\n", "HTTP/1.1 400"},
        {"GET / HTTP/1.1\r\nA b: c\r\n\r\n", "HTTP/1.1 400"},
        {"GET / HTTP/1.1\r\nHost: a\r\nHost: b\r\n\r\n", "HTTP/1.1 400"},
        {"POST / HTTP/1.1\r\nContent-Length: -1\r\n\r\n", "HTTP/1.1 400"},
        {"POST / HTTP/1.1\r\nContent-Length: 99999999999999999999999\r\n\r\n", "HTTP/1.1 400"},
        {"POST / HTTP/1.1\r\nContent-Length: 1\r\nContent-Length: 2\r\n\r\n", "HTTP/1.1 400"},
        {"POST / HTTP/1.1\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\n", "HTTP/1.1 400"},
        {"GET /" + std::string(3000, 'a') + " HTTP/1.1\r\n\r\n", "HTTP/1.1 413"},
        {"GET / HTTP/1.1\r\nX: " + std::string(20000, 'a') + "\r\n\r\n", "HTTP/1.1 413"},
        {std::string(100000, '\xff'), "HTTP/1.1 413"},
        {"DELETE /about HTTP/1.1\r\n" + there + "Connection: close\r\n\r\n", "HTTP/1.1 405"},
        {"GET /about HTTP/1.1\r\nConnection: close\r\n\r\n", "HTTP/1.1 421"},
        {"POST /actions/a HTTP/1.1\r\n" + there + "Content-Length: 9000000\r\nAuthorization: Bearer " + out.token() +
             "\r\nContent-Type: application/json\r\n\r\n",
         "HTTP/1.1 413"},
    };
    for (const auto& [request, status] : all) {
        CAPTURE(request.substr(0, 60));
        const std::string got = raw_connection(out).send(request).read();
        CHECK(status_of(got) == status);
        CHECK(got.find("(still open)") == std::string::npos);
    }
    std::string lines = "GET / HTTP/1.1\r\n";
    for (int i = 0; i < 200; ++i) {
        lines += "X: y\r\n";
    }
    CHECK(status_of(raw_connection(out).send(lines + "\r\n").read()) == "HTTP/1.1 413");
    // Long lists of ranges are matched by nobody.
    std::string ranges = "bytes=0-0";
    while (ranges.size() < 7000) {
        ranges += ",0-0";
    }
    CHECK(status_of(raw_connection(out)
                        .send("GET /about HTTP/1.1\r\n" + there + "Connection: close\r\nRange: " + ranges + "\r\n\r\n")
                        .read()) == "HTTP/1.1 200");
    CHECK(out.report().of(gateway_code::malformed) >= 15);
    CHECK(get(out, "/about").status == 200);
}

TEST_CASE("requests may follow one another on a connection, and none hides in another's body") {
    harbour reef;
    gateway out{{.token = "sesame"}};
    out.accept(reef.hailed);
    const std::string there = "Host: " + out.address().substr(7, out.address().size() - 8) + "\r\n";
    const std::string one = "GET /about HTTP/1.1\r\n" + there + "\r\n";
    const std::string last = "GET /about HTTP/1.1\r\n" + there + "Connection: close\r\n\r\n";
    const std::string both = raw_connection(out).send(one + last).read();
    CHECK(both.find("HTTP/1.1 200", 10) != std::string::npos);
    const std::string hidden =
        raw_connection(out)
            .send("POST /channels/harbour.hailed HTTP/1.1\r\n" + there +
                  "Content-Type: application/json\r\nContent-Length: " + std::to_string(last.size()) + "\r\n\r\n" +
                  last)
            .read();
    CHECK(status_of(hidden) == "HTTP/1.1 401");
    CHECK(hidden.find("HTTP/1.1", 10) == std::string::npos);
}

TEST_CASE("a request that does not come, or comes too slowly, is not waited for") {
    gateway out{{.request_time = 200ms, .idle_time = 100ms}};
    const auto begun = std::chrono::steady_clock::now();
    raw_connection idle(out);
    raw_connection half(out);
    half.send("GET /about HTTP/1.1\r\n");
    raw_connection body(out);
    body.send("POST /channels/a HTTP/1.1\r\nHost: " + out.address().substr(7, out.address().size() - 8) +
              "\r\nAuthorization: Bearer " + out.token() +
              "\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{");
    std::thread drops([&] {
        raw_connection drip(out);
        for (int i = 0; i < 40; ++i) {
            drip.send("G");
            std::this_thread::sleep_for(10ms);
        }
        CHECK(drip.read().find("(still open)") == std::string::npos);
    });
    CHECK(idle.read().empty());
    CHECK(status_of(half.read()) == "HTTP/1.1 408");
    CHECK(body.read().find("(still open)") == std::string::npos);
    drops.join();
    CHECK(std::chrono::steady_clock::now() - begun < 5s);
    CHECK(out.report().of(gateway_code::too_slow) >= 1);
}

TEST_CASE("connections, readers and requests have their bounds") {
    harbour reef;
    gateway out{{.max_connections = 8, .max_readers = 3, .max_readers_each = 2, .requests_per_second = 5}};
    out.show(reef.crates);
    out.take_in();
    std::vector<std::unique_ptr<raw_connection>> all;
    for (int i = 0; i < 8; ++i) {
        all.push_back(std::make_unique<raw_connection>(out));
    }
    for (int i = 0; i < 200 && out.report().connections < 8; ++i) {
        std::this_thread::sleep_for(5ms);
    }
    REQUIRE(out.report().connections == 8);
    CHECK(status_of(raw_connection(out).read()) == "HTTP/1.1 503");
    all.clear();
    const std::string there = "Host: " + out.address().substr(7, out.address().size() - 8) + "\r\n";
    for (int i = 0; i < 200 && out.report().connections != 0; ++i) {
        std::this_thread::sleep_for(5ms);
    }
    const auto read_from = [&](in_addr_t address) {
        const std::size_t before = out.report().readers;
        all.push_back(std::make_unique<raw_connection>(out, 0, address));
        all.back()->send("GET /events HTTP/1.1\r\n" + there + "\r\n");
        for (int i = 0; i < 40 && out.report().readers == before; ++i) {
            std::this_thread::sleep_for(5ms);
        }
        return out.report().readers;
    };
    constexpr in_addr_t neighbour = INADDR_LOOPBACK + 1;
    CHECK(read_from(INADDR_LOOPBACK) == 1);
    CHECK(read_from(INADDR_LOOPBACK) == 2);
    CHECK(get(out, "/events").status == 503); // its address has as many as it may
    CHECK(read_from(neighbour) == 3);
    CHECK(read_from(neighbour + 1) == 3); // all are taken
    all.erase(all.begin() + 1);           // which gives one back
    for (int i = 0; i < 400 && out.report().readers == 3; ++i) {
        std::this_thread::sleep_for(5ms);
    }
    CHECK(read_from(neighbour + 1) == 3);
    int too_many = 0;
    for (int i = 0; i < 60; ++i) {
        too_many += get(out, "/about").status == 429 ? 1 : 0;
    }
    CHECK(too_many > 20);
    CHECK(out.report().of(gateway_code::too_many_requests) == static_cast<std::uint64_t>(too_many));
}

TEST_CASE("a reader that stalls is dropped and counted; others lose nothing, and the game does not wait") {
    harbour reef;
    gateway out{{.stall_time = 200ms}};
    out.show(reef.landed);
    raw_connection stalled(out, 4096);
    stalled.send("GET /events HTTP/1.1\r\nHost: " + out.address().substr(7, out.address().size() - 8) + "\r\n\r\n");
    std::vector<message> kept_up;
    int next = 0;
    std::chrono::steady_clock::duration longest{0};
    std::atomic<bool> reads{false};
    const bool in_time = frames_during(
        [&] {
            const auto begun = std::chrono::steady_clock::now();
            for (int i = 0; i < 10 && reads && next < 200000; ++i) {
                reef.landed.publish({.barge = 1, .crates = next++});
            }
            out.take_in();
            longest = std::max(longest, std::chrono::steady_clock::now() - begun);
        },
        [&] {
            reads = true;
            kept_up = read_stream(out, "/events", "", [&](const auto& all) {
                return all.size() >= 3000 && out.report().of(gateway_code::reader_dropped) != 0;
            });
        });
    CHECK(in_time);
    CHECK(out.report().of(gateway_code::reader_dropped) == 1);
    CHECK(kept_up.size() >= 3000);
    CHECK(longest < 1s); // it was never waited for
    for (std::size_t i = 1; i < kept_up.size(); ++i) {
        REQUIRE(kept_up[i].at("/data/crates") == kept_up[i - 1].at("/data/crates") + 1);
    }
}

TEST_CASE("a gateway may end at any moment: with readers, in the middle of requests, and by an action") {
    for (int round = 0; round < 5; ++round) {
        harbour reef;
        auto out = std::make_unique<gateway>(courier::gateway_options{.answer_time = 5s});
        out->show(reef.crates);
        out->accept(reef.hailed);
        out->take_in();
        std::vector<message> told;
        std::atomic<bool> reads{false};
        const gateway& still = *out;
        raw_connection half(still);
        half.send("GET /ab");
        std::thread reader([&] {
            told = read_stream(still, "/events", "", [&](const auto& all) {
                reads = true; // a state comes first
                return all.back().event == "over";
            });
        });
        int status = -1;
        const std::string address = still.address();
        const std::string token = still.token();
        std::thread asks([&, by = client_of(still)]() mutable {
            const auto got =
                by.Post("/channels/harbour.hailed", {{"Authorization", "Bearer " + token}}, "{}", "application/json");
            status = got ? got->status : 0; // the game stands still
        });
        for (int i = 0; i < 1000 && !reads; ++i) {
            std::this_thread::sleep_for(1ms);
        }
        const auto begun = std::chrono::steady_clock::now();
        out.reset();
        CHECK(std::chrono::steady_clock::now() - begun < 2s);
        reader.join();
        asks.join();
        REQUIRE(!told.empty());
        CHECK(told.back().event == "over");
        CHECK((status == 504 || status == 0));
    }

    harbour reef;
    auto out = std::make_unique<gateway>();
    reef.wires.action<Hailed>(reef.in, "gateway.end", [&](const Hailed&) { out.reset(); });
    out->accept_actions(reef.wires);
    const std::string token = out->token();
    std::thread asks([by = client_of(*out), token]() mutable {
        by.Post("/actions/gateway.end", {{"Authorization", "Bearer " + token}},
                R"({"parameters":{"by":"nobody","how":"brief"}})", "application/json");
    });
    for (int i = 0; i < 3000 && out != nullptr; ++i) {
        out->take_in();
        std::this_thread::sleep_for(1ms);
    }
    asks.join();
    CHECK(out == nullptr);
}

TEST_CASE("readers come and go, requests flood in, and garbage too, while the game goes on") {
    harbour reef;
    courier::ledger night{"ledger of a night"};
    night.attach(reef.landed);
    gateway out{{.max_connections = 32, .requests_per_second = 2000}};
    out.show(reef.landed);
    out.show(reef.crates);
    out.show(night);
    out.accept(reef.hailed);
    out.accept_actions(reef.wires);
    night.attach(out.refused());
    std::atomic<bool> over{false};
    std::vector<std::thread> all;
    for (int kind = 0; kind < 4; ++kind) {
        all.emplace_back([&, kind] {
            for (unsigned i = 0; !over; ++i) {
                switch (kind) {
                case 0:
                    read_stream(out, i % 2 == 0 ? "/events" : "/run", "",
                                [&](const auto& some) { return some.size() > i % 50; });
                    break;
                case 1:
                    post(out, i % 2 == 0 ? "/channels/harbour.hailed" : "/actions/bell.ring",
                         i % 2 == 0 ? R"({"by":"a","how":"brief"})" : "{\"x\":[[");
                    break;
                case 2:
                    raw_connection(out).send(std::string(i % 300, static_cast<char>(i)) + "\r\n\r\n").read(10ms);
                    break;
                default:
                    get(out, i % 2 == 0 ? "/catalogue" : "/metrics");
                }
            }
        });
    }
    const auto begun = std::chrono::steady_clock::now();
    int frames = 0;
    while (std::chrono::steady_clock::now() - begun < 1500ms) {
        reef.landed.publish({.barge = frames, .crates = 1});
        reef.crates.add(1);
        night.end_frame();
        out.take_in();
        ++frames;
        std::this_thread::sleep_for(1ms);
    }
    over = true;
    std::atomic<int> joined{0};
    std::thread joins([&] {
        for (std::thread& one : all) {
            one.join();
        }
        joined = 1;
    });
    while (joined == 0) {
        out.take_in();
        std::this_thread::sleep_for(1ms);
    }
    joins.join();
    CHECK(frames > 20);
    CHECK(out.report().requests > 10);
    CHECK(out.report().of(gateway_code::malformed) > 10);
    CHECK(!reef.heard.empty());
}

TEST_CASE("what is nested deeply is refused before anything recurses into it") {
    harbour reef;
    gateway out;
    out.accept_actions(reef.wires);
    for (const std::size_t deep : {65U, 20'000U}) {
        const std::string body = R"({"parameters":)" + std::string(deep, '[') + std::string(deep, ']') + R"(})";
        CHECK(post(out, "/actions/bell.ring", body).status == 400);
    }
}

TEST_CASE("a foreign page does not use up what others may ask, nor does anybody what holders of the token may") {
    courier::gateway_options options;
    options.requests_per_second = 5;
    const gateway out(options);
    for (int i = 0; i < 60; ++i) {
        CHECK(get(out, "/about", {{"Origin", "http://evil.example"}}).status == 403);
    }
    CHECK(get(out, "/about").status != 429);
    for (int i = 0; i < 60; ++i) {
        static_cast<void>(get(out, "/about"));
    }
    CHECK(get(out, "/about").status == 429);
    CHECK(get(out, "/about", {{"Authorization", "Bearer " + out.token()}}).status != 429);
}

TEST_CASE("what the program does with broken pipes is its own") {
    struct sigaction before {};
    ::sigaction(SIGPIPE, nullptr, &before);
    const gateway out;
    struct sigaction after {};
    ::sigaction(SIGPIPE, nullptr, &after);
    const bool is_same = before.sa_handler == after.sa_handler;
    CHECK(is_same);
}
