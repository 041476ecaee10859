// What comes in, and what does not.
#include "support.hpp"

#include <courier/hub_values.hpp>

using namespace test;
using courier::gateway;
using courier::gateway_code;

namespace test {

struct Berthed {
    using address = bell_id;
    int crates = 0;
};

} // namespace test

namespace {

constexpr courier::channel_name<Landed> in_port{"in port"};

/// Lets the game run while one request is answered.
answer during(gateway& out, const std::function<answer()>& ask) {
    answer made;
    REQUIRE(frames_during([&] { out.take_in(); }, [&] { made = ask(); }));
    return made;
}

} // namespace

TEST_CASE("a payload that is accepted is published on the game's thread, and its receipt comes back") {
    harbour reef;
    gateway out;
    out.accept(reef.hailed);
    const answer got =
        during(out, [&] { return post(out, "/channels/harbour.hailed", R"({"by":"barge 3","how":"prolonged"})"); });
    CHECK(got.status == 200);
    CHECK(got.body["served"] == 1);
    CHECK(reef.heard == std::vector<std::string>{"barge 3 for long"});
    CHECK(out.report().calls == 1);
    const answer none = during(out, [&] { return post(out, "/channels/harbour.landed", "{}"); });
    CHECK(none.status == 404);
    const answer near = during(out, [&] { return post(out, "/channels/harbour.haild", "{}"); });
    CHECK(near.body["detail"] == "no payloads are accepted for 'harbour.haild'; did you mean 'harbour.hailed'?");
}

TEST_CASE("the channels of a hub are shown and accepted as they come, with addresses or without") {
    harbour reef;
    courier::hub match{"match"};
    courier::subscriber in{"keeper"};
    int crates = 0;
    gateway out;
    in.subscribe(match.channel(in_port), [&](const Landed& l) { crates += l.crates; });
    match.channel(in_port).retain_latest();
    out.show(match);
    out.accept(match);
    in.subscribe(match.channel<Berthed>().at(bell_id::south), [&](const Berthed& b) { crates += 100 * b.crates; });
    const auto send = [&](const std::string& to, const std::string& body) {
        return during(out, [&] { return post(out, "/channels/" + to, body); }).status;
    };
    CHECK(send("in%20port", R"({"crates":3})") == 200);
    const std::string berthed(match.channel<Berthed>().name());
    CHECK(send(berthed + "?at=south", R"({"crates":2})") == 200);
    CHECK(send(berthed + "?at=nowhere", R"({"crates":2})") == 422);
    CHECK(send(berthed, R"({"crates":2})") == 422);
    CHECK(crates == 203);
    const answer all = during(out, [&] { return get(out, "/catalogue"); });
    CHECK(all.text.find("in port") != std::string::npos);
    CHECK(all.text.find(berthed) != std::string::npos);
    CHECK(during(out, [&] { return get(out, "/values/in%20port"); }).body["crates"] == 3);
    match.state<int>("tide.level", 3).set(4); // values that it makes are shown, too
    CHECK(during(out, [&] { return get(out, "/values/tide.level"); }).body["value"] == 4);
}

TEST_CASE("what does not fit is told field by field, and nothing is done") {
    harbour reef;
    gateway out;
    out.accept_actions(reef.wires);
    const answer got = during(out, [&] {
        return post(out, "/actions/bell.ring",
                    R"({"parameters":{"strokes":300,"how":"breif","pauses":[1,"x"],"pitch":"high","stroke":1}})");
    });
    CHECK(got.status == 422);
    CHECK(got.headers.find("Content-Type")->second == "application/problem+json");
    CHECK(got.body["type"] == "courier.gateway.does-not-fit");
    CHECK(got.body["detail"] == "the call does not fit 'bell.ring'; nothing was done");
    REQUIRE(got.body["errors"].size() == 5);
    const auto error = [&](std::size_t i, const char* key) { return got.body["errors"][i].value(key, std::string()); };
    CHECK(error(0, "pointer") == "#/parameters/how");
    CHECK(error(0, "advice") == "did you mean 'brief'?");
    CHECK(error(1, "pointer") == "#/parameters/pauses/1");
    CHECK(error(1, "detail") == "must be a whole number, but is a text");
    CHECK(error(2, "pointer") == "#/parameters/pitch");
    CHECK(error(3, "pointer") == "#/parameters/stroke");
    CHECK(error(3, "detail") == "is not a field of test::Ring");
    CHECK(error(3, "advice") == "did you mean 'strokes'?");
    CHECK(error(4, "detail") == "must be a whole number from 0 to 255, but is the number 300");
    CHECK(reef.heard.empty());
}

TEST_CASE("an action is answered with what became of it") {
    harbour reef;
    gateway out;
    out.accept_actions(reef.wires);
    const courier::named_target south = reef.wires.target("south bell", bell_id::south);
    const auto call = [&](const std::string& action, const std::string& body) {
        return during(out, [&] { return post(out, "/actions/" + action, body); });
    };
    const answer rung = call("bell.ring", R"({"parameters":{"strokes":3}})");
    CHECK(rung.status == 200);
    CHECK(rung.body == nlohmann::json{{"done", true}, {"answer", 6}});
    const answer stuck = call("bell.ring", R"({"parameters":{"strokes":9}})");
    CHECK(stuck.status == 409);
    CHECK(stuck.body["detail"] == "the clapper is stuck");
    CHECK(call("bell.toll", R"({"at":"south bell","parameters":{"strokes":1}})").status == 200);
    CHECK(call("bell.toll", R"({"at":"north bell","parameters":{"strokes":1}})").status == 409);
    CHECK(call("bell.toll", "{}").body["errors"][0]["pointer"] == "#/at");
    CHECK(call("bell.ring", R"({"at":"south bell"})").status == 422);
    CHECK(call("bell.rign", "{}").body["detail"] == "there is no action 'bell.rign'; did you mean 'bell.ring'?");
    CHECK(call("bell.ring", R"({"strokes":3})").status == 422);
    CHECK(call("bell.ring", "[]").status == 422);
    CHECK(reef.heard == std::vector<std::string>{"ring 3", "toll"});
}

TEST_CASE("only the actions that are named may be called") {
    harbour reef;
    gateway out;
    out.accept(reef.wires, "bell.ring");
    CHECK_THROWS_WITH_AS(out.accept(reef.wires, "bell.crack"),
                         "wiring 'harbour' has no action 'bell.crack'; offer it first [courier.gateway.unknown-action]",
                         courier::gateway_error);
    CHECK(during(out, [&] { return post(out, "/actions/bell.ring", R"({"parameters":{"strokes":1}})"); }).status ==
          200);
    CHECK(during(out, [&] {
              return post(out, "/actions/bell.toll", R"({"at":"south bell","parameters":{"strokes":1}})");
          }).status == 404);
}

TEST_CASE("a request that the game does not answer in time is not done later") {
    harbour reef;
    gateway out{{.answer_time = std::chrono::milliseconds(50)}};
    out.accept(reef.hailed);
    const answer got = post(out, "/channels/harbour.hailed", "{}"); // while the game stands still
    CHECK(got.status == 504);
    out.take_in();
    CHECK(reef.heard.empty());
    CHECK(out.report().of(gateway_code::not_answered) == 1);
}

TEST_CASE("whoever has no token, comes from elsewhere, or calls it by another name, is turned away") {
    harbour reef;
    gateway out{{.token = "sesame", .origins = {"http://hud.reef:3000"}}};
    out.accept(reef.hailed);
    out.show(reef.crates);
    const auto with = [&](const httplib::Headers& headers, const char* type = "application/json") {
        httplib::Client by = client_of(out);
        return as_answer(by.Post("/channels/harbour.hailed", headers, R"({"by":"nobody","how":"brief"})", type)).status;
    };
    const std::string host = out.address().substr(7, out.address().size() - 8);
    std::vector<int> got;
    answer beforehand;
    answer allowed;
    frames_during(
        [&] { out.take_in(); },
        [&] {
            got = {with({}),
                   with({{"Authorization", "Bearer sesam"}}),
                   with({{"Authorization", "Basic sesame"}}),
                   with({{"Authorization", "Bearer sesame"}}),
                   with({{"Authorization", "Bearer sesame"}}, "text/plain"),
                   with({{"Authorization", "Bearer sesame"}, {"Origin", "http://elsewhere.reef"}}),
                   with({{"Authorization", "Bearer sesame"}, {"Origin", "null"}}),
                   with({{"Authorization", "Bearer sesame"}, {"Origin", "http://" + host}}),
                   with({{"Authorization", "Bearer sesame"}, {"Origin", "http://hud.reef:3000"}}),
                   with({{"Authorization", "Bearer sesame"}, {"Host", "rebound.reef"}}),
                   get(out, "/about", {{"Host", "rebound.reef"}}).status,
                   get(out, "/about", {{"Origin", "http://elsewhere.reef"}}).status,
                   get(out, "/about", {{"Sec-Fetch-Site", "cross-site"}}).status,
                   get(out, "/about").status};
            httplib::Client by = client_of(out);
            beforehand = as_answer(by.Options("/channels/harbour.hailed", {{"Origin", "http://hud.reef:3000"}}));
            allowed = get(out, "/about", {{"Origin", "http://hud.reef:3000"}});
        });
    CHECK(got == std::vector<int>{401, 401, 401, 200, 415, 403, 403, 200, 200, 421, 421, 403, 403, 200});
    CHECK(beforehand.status == 204);
    CHECK(beforehand.headers.find("Access-Control-Allow-Origin")->second == "http://hud.reef:3000");
    CHECK(allowed.headers.find("Access-Control-Allow-Origin")->second == "http://hud.reef:3000");
    CHECK(out.report().of(gateway_code::wrong_token) == 3);
    CHECK(out.report().of(gateway_code::wrong_host) == 2);
}

TEST_CASE("refusals are published once a frame for each kind, and so are in the ledger") {
    harbour reef;
    courier::ledger night{"ledger of a night"};
    gateway out;
    night.attach(out.refused());
    std::vector<std::pair<gateway_code, std::uint64_t>> told;
    const courier::subscription in =
        out.refused().subscribe([&](const courier::requests_refused& r) { told.emplace_back(r.code, r.times); });
    for (int i = 0; i < 3; ++i) {
        get(out, "/nowhere");
    }
    get(out, "/about", {{"Host", "rebound.reef"}});
    out.take_in();
    out.take_in();
    CHECK(told == std::vector<std::pair<gateway_code, std::uint64_t>>{{gateway_code::wrong_host, 1},
                                                                      {gateway_code::unknown_path, 3}});
    CHECK(night.read().channels.at(0).published == 2);
    CHECK(courier::id_of(gateway_code::foreign_origin) == "courier.gateway.foreign-origin");
}

TEST_CASE("only files below the folder are there") {
    namespace fs = std::filesystem;
    const fs::path top = fs::temp_directory_path() / "courier_gateway_files";
    fs::remove_all(top);
    fs::create_directories(top / "hud" / "sub");
    std::ofstream(top / "secret.txt") << "the combination";
    std::ofstream(top / "hud" / "index.html") << "<p>hud</p>";
    std::ofstream(top / "hud" / "sub" / "hud.js") << "1;";
    const std::string large(100'001, 'x'); // more than is read at a time
    std::ofstream(top / "hud" / "large.bin") << large;
    std::ofstream(top / "hud" / "empty.css");
    fs::create_symlink(top / "secret.txt", top / "hud" / "link.txt");
    gateway out{{.folder = top / "hud"}};
    CHECK(get(out, "/").text == "<p>hud</p>");
    CHECK(get(out, "/large.bin").text == large);
    CHECK(get(out, "/empty.css").status == 200);
    CHECK_THROWS_AS(gateway(courier::gateway_options{.folder = top / "nosuch"}), courier::gateway_error);
    CHECK(get(out, "/sub/hud.js").headers.find("Content-Type")->second == "text/javascript; charset=utf-8");
    for (const char* path :
         {"/../secret.txt", "/sub/../../secret.txt", "/%2e%2e/secret.txt", "/..%2fsecret.txt", "/link.txt", "/sub",
          "//etc/passwd", "/%00", "/sub/hud.js%00.html", "/./../hud/../secret.txt"}) {
        CAPTURE(path);
        CHECK(get(out, path).status == 404);
    }
    fs::remove_all(top);
}

TEST_CASE("a port that is taken is said at once") {
    const gateway first;
    const int port = std::stoi(first.address().substr(first.address().rfind(':') + 1));
    CHECK_THROWS_AS(gateway(courier::gateway_options{.port = port}), courier::gateway_error);
}

TEST_CASE("the catalogue has what is shown and what is accepted, and metrics what was counted") {
    harbour reef;
    courier::ledger night{"ledger \"of\" a night"};
    night.attach(reef.landed);
    gateway out{{.name = "gannet reef"}};
    out.show(reef.crates);
    out.show(reef.landed);
    out.show(night);
    out.accept(reef.hailed);
    out.accept_actions(reef.wires);
    reef.landed.publish({});
    out.take_in();
    const answer all = during(out, [&] { return get(out, "/catalogue"); });
    CHECK(all.body["asyncapi"] == "3.0.0");
    CHECK(all.text.find("harbour.crates") != std::string::npos);
    CHECK(all.text.find("bell.ring") != std::string::npos);
    CHECK(all.text.find("harbour.hailed") != std::string::npos);
    out.accept(reef.crates);
    CHECK(during(out, [&] { return get(out, "/values/harbour.crates"); }).body["value"] == 35);
    const answer set =
        during(out, [&] { return post(out, "/actions/set harbour.crates", R"({"parameters":{"value":12}})"); });
    CHECK(set.status == 200);
    CHECK(reef.crates.glance() == 12);
    CHECK(during(out, [&] { return get(out, "/values/harbour.crate"); }).text.find("did you mean 'harbour.crates'") !=
          std::string::npos);
    CHECK(during(out, [&] { return get(out, "/values/harbour.landed"); }).status == 404);
    const answer script = during(out, [&] { return get(out, "/client.js"); });
    CHECK(script.headers.find("Content-Type")->second == "text/javascript; charset=utf-8");
    CHECK(script.text.find("export const harbourCrates = (shows) => own.show(\"harbour.crates\", shows);") !=
          std::string::npos);
    CHECK(script.text.find("=> own.publish(\"harbour.hailed\", parameters, at);") != std::string::npos);
    CHECK(script.text.find("=> own.call(\"bell.ring\", parameters, at);") != std::string::npos);
    CHECK(during(out, [&] { return get(out, "/client.d.ts"); }).text.find("bellRing(parameters?: { ") !=
          std::string::npos);
    const answer counted = during(out, [&] { return get(out, "/metrics"); });
    CHECK(counted.headers.find("Content-Type")->second == "application/openmetrics-text; version=1.0.0; charset=utf-8");
    CHECK(counted.text.find("courier_published_total{channel=\"harbour.landed\"} 1\n") != std::string::npos);
    CHECK(counted.text.ends_with("# EOF\n"));
}

TEST_CASE("a payload on a channel with addresses is for one of them, which the path says") {
    struct Bitten {
        using address = int;
        int crates = 0;
    };
    courier::addressed_channel<Bitten> bitten("barges.bitten");
    std::vector<int> crates;
    const auto three = bitten.at(3).subscribe([&](const Bitten& b) { crates.push_back(b.crates); });
    const auto four = bitten.at(4).subscribe([&] { crates.push_back(-1); });
    gateway out;
    out.accept(bitten);
    const auto ask = [&](const std::string& path) {
        return during(out, [&] { return post(out, path, R"({"crates":2})"); });
    };
    CHECK(ask("/channels/barges.bitten").body["detail"] ==
          "a payload on 'barges.bitten' is for one address; say which by \"at\"");
    CHECK(ask("/channels/barges.bitten?at=south").body["detail"] ==
          "'south' is none of the addresses of 'barges.bitten'");
    CHECK(crates.empty());
    CHECK(ask("/channels/barges.bitten?at=3").body["served"] == 1);
    CHECK(crates == std::vector<int>{2});
}

TEST_CASE("a page is told why its stream is refused, in the stream; other programs by the status") {
    harbour reef;
    gateway out;
    out.show(reef.hailed);
    const httplib::Headers program{{"Accept", "text/event-stream"}};
    httplib::Headers page = program;
    page.emplace("Sec-Fetch-Mode", "cors");
    CHECK(get(out, "/events?channel=harbour.haild", program).status == 404);
    const std::string told = httplib::Client(out.address().substr(0, out.address().size() - 1))
                                 .Get("/events?channel=harbour.haild", page)
                                 ->body;
    CHECK(told.starts_with("retry: 60000\nevent: refused\ndata: {"));
    CHECK(told.find("did you mean 'harbour.hailed'?") != std::string::npos);
}
