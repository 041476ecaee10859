// What anybody at the broker may send, and brokers that do not let everybody in.
#include "bare_broker.hpp"
#include "support.hpp"

#include <unistd.h>

namespace {

using namespace test;
using courier::ferry_code;

struct Order {
    std::string buyer;
    std::vector<int> crates;
    std::optional<double> price;
    std::uint8_t berth = 0;
};

/// A process that takes orders, and counts what it did not take.
struct taking {
    explicit taking(const reef::local_broker& broker, courier::ferry_options options) : ferry(std::move(options)) {
        ferry.receive(orders, "t/order", {.guarantee = courier::guarantee::exactly_once});
        ferry.receive(berths, "t/berth/+");
        in.subscribe(orders, [this](const Order& one) { got.push_back(one.buyer); });
        in.subscribe(berths, [this] { got.emplace_back("berth"); });
        other.emplace(broker.port(), "other");
    }
    courier::channel<Order> orders{"orders"};
    courier::addressed_channel<Order, int> berths{"berths"};
    courier::ferry ferry;
    std::optional<other_program> other;
    std::vector<std::string> got;
    courier::subscriber in{"orders"};
};

std::string deep(std::size_t levels, const std::string& open, const std::string& close) {
    std::string made;
    for (std::size_t i = 0; i < levels; ++i) {
        made += open;
    }
    for (std::size_t i = 0; i < levels; ++i) {
        made += close;
    }
    return made;
}

} // namespace

TEST_CASE("hostile messages are refused and counted, and the next good one arrives") {
    const reef::local_broker broker;
    courier::ferry_options options = at(broker, "far");
    options.largest_payload = 4096;
    taking all(broker, options);
    REQUIRE(connected({&all.ferry}));
    std::uint64_t refused = 0;
    const auto send = [&](const std::function<void(other_program::message&)>& change) {
        auto one = event_of("t/order", R"({"buyer":"bad"})");
        change(one);
        all.other->send(one);
        ++refused;
    };
    // No event.
    for (const char* const gone : {"specversion", "id", "source", "type"}) {
        send([&](auto& one) { one.properties.erase(gone); });
        send([&](auto& one) { one.properties[gone] = ""; });
        send([&](auto& one) { one.properties[gone] = std::string(1000, 'x'); });
    }
    send([](auto& one) { one.properties["specversion"] = "2.0"; });
    // No payload that can be read.
    for (const char* const type :
         {"", "text/plain", "application/json; charset=utf-8", "application/cloudevents+json"}) {
        send([&](auto& one) { one.content_type = type; });
    }
    for (const std::string& text :
         {std::string("{"), std::string("nul"), std::string("[]"), std::string("7"), std::string("\"x\""),
          std::string("{\"buyer\":\"\xff\xfe\"}"), std::string("{\"buyer\":\"a\"}}"), deep(2000, "[", "]"),
          deep(600, "{\"a\":", "}"), std::string(5000, ' ') + "{}"}) {
        send([&](auto& one) { one.payload = text; });
    }
    for (const std::string& bytes :
         {std::string("\xa1"), std::string("\xff"), std::string("\xa1\x65"),
          std::string("\x5b\xff\xff\xff\xff\xff\xff\xff\xff", 9),
          std::string("\x9b\x7f\xff\xff\xff\xff\xff\xff\xff", 9),
          std::string("\xbb\x7f\xff\xff\xff\xff\xff\xff\xff", 9), std::string(4000, '\x81'), std::string(4000, '\x9f'),
          std::string(4000, '\xc1'), std::string("\xa1\x01\x02"), std::string("\xa0\xa0")}) {
        send([&](auto& one) {
            one.content_type = "application/cbor";
            one.payload = bytes;
        });
    }
    // Fields that do not fit.
    for (const char* const text : {R"({"buyer":7})", R"({"buyer":null})", R"({"crates":{"0":1}})",
                                   R"({"crates":[1,"2"]})", R"({"crates":[1.5]})", R"({"crates":[99999999999]})",
                                   R"({"price":"dear"})", R"({"berth":256})", R"({"berth":-1})"}) {
        send([&](auto& one) { one.payload = text; });
    }
    // Addresses that are none.
    for (const char* const address : {"x", "99999999999", "1.5", "%31%", "%zz"}) {
        send([&](auto& one) { one.topic = std::string("t/berth/") + address; });
    }
    const auto count = [&] {
        std::uint64_t sum = 0;
        for (std::size_t i = 0; i < courier::ferry_losses; ++i) {
            sum += all.ferry.report().lost[i];
        }
        return sum;
    };
    CHECK(until({&all.ferry}, [&] { return count() == refused; }));
    CHECK(count() == refused);
    CHECK(all.got.empty());
    all.other->send(event_of("t/order", R"({"buyer":"good","more":[[[]]]})"));
    CHECK(until({&all.ferry}, [&] { return all.got == std::vector<std::string>{"good"}; }));
}

TEST_CASE("random bytes and random changes are refused, or are payloads") {
    const reef::local_broker broker;
    taking all(broker, at(broker, "far"));
    REQUIRE(connected({&all.ferry}));
    std::mt19937 chance(20261129);
    const std::string json = R"({"buyer":"Tern","crates":[1,2,3],"price":2.5,"berth":7})";
    constexpr char bytes[] = "\xa4\x65"
                             "buyer\x64Tern\x66"
                             "crates\x83\x01\x02\x03\x65price\xf9\x41\x00\x65"
                             "berth\x07";
    const std::string cbor(bytes, sizeof bytes - 1);
    constexpr std::uint64_t rounds = 3000;
    for (std::uint64_t i = 0; i < rounds; ++i) {
        auto one = event_of("t/order", i % 2 == 0 ? json : cbor);
        one.content_type = i % 2 == 0 ? "application/json" : "application/cbor";
        for (unsigned changes = chance() % 4 + 1; changes > 0; --changes) {
            one.payload[chance() % one.payload.size()] = static_cast<char>(chance());
        }
        if (i % 5 == 0) {
            one.payload.resize(chance() % one.payload.size() + 1);
        }
        all.other->send(one);
    }
    all.other->send(event_of("t/order", R"({"buyer":"last"})"));
    CHECK(until({&all.ferry}, [&] { return !all.got.empty() && all.got.back() == "last"; }));
    const courier::ferry_report report = all.ferry.report();
    CHECK(report.arrived + report.of(ferry_code::bad_message) + report.of(ferry_code::does_not_fit) == rounds + 1);
    CHECK(report.of(ferry_code::bad_message) > 100);
    CHECK(all.got.size() == report.arrived);
}

TEST_CASE("processes that are not what they say are not heard of") {
    const reef::local_broker broker;
    courier::ferry_options options = at(broker, "near");
    options.processes_topic = "p";
    courier::ferry near(options);
    int heard = 0;
    const auto in = near.peers().subscribe([&] { ++heard; });
    REQUIRE(connected({&near}));
    other_program other(broker.port(), "other");
    const auto news_of = [](const char* text) {
        auto made = event_of("p/x", text);
        made.properties["type"] = "wired-courier.process";
        return made;
    };
    for (const char* const text :
         {R"({"process":"someone","run":"1","is":"here"})", R"({"process":"x","run":"1","is":"gone"})", R"({})",
          R"({"process":"a/b","run":"1","is":"here"})"}) {
        other.send(news_of(text));
    }
    CHECK(until({&near}, [&] { return near.report().of(ferry_code::bad_message) == 4; }));
    CHECK(heard == 0);
}

namespace {

std::string run(const std::string& command) {
    const int code = std::system((command + " >/dev/null 2>&1").c_str());
    return code == 0 ? "" : command;
}

/// Certificates of two authorities, made for this test.
std::string make_certificates(const std::filesystem::path& folder) {
    std::string failed;
    const auto all = [&](const std::string& command) { failed += run("cd " + folder.string() + " && " + command); };
    for (const char* const who : {"ca", "other-ca"}) {
        all(std::string("openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj '/CN=") + who + "' -keyout " + who +
            ".key -out " + who + ".crt");
    }
    all("openssl req -newkey rsa:2048 -nodes -subj '/CN=broker' -keyout broker.key -out broker.csr");
    std::ofstream(folder / "names") << "subjectAltName=DNS:localhost\n";
    all("openssl x509 -req -in broker.csr -CA ca.crt -CAkey ca.key -CAcreateserial -days 2 -extfile names -out "
        "broker.crt");
    all("openssl req -newkey rsa:2048 -nodes -subj '/CN=reef-1' -keyout reef-1.key -out reef-1.csr");
    all("openssl x509 -req -in reef-1.csr -CA ca.crt -CAkey ca.key -days 2 -out reef-1.crt");
    for (const char* const user : {"office", "reef-1", "reef-2"}) {
        all(std::string("touch passwords && mosquitto_passwd -b passwords ") + user + " secret-of-" + user);
    }
    all("chmod 0700 passwords");
    return failed;
}

std::string text_of(const std::filesystem::path& file) {
    std::ostringstream text;
    text << std::ifstream(file).rdbuf();
    return text.str();
}

std::string replaced(std::string text, std::string_view what, const std::string& by) {
    const std::size_t at = text.find(what);
    REQUIRE(at != std::string::npos);
    for (std::size_t i = at; i != std::string::npos; i = text.find(what, i + by.size())) {
        text.replace(i, what.size(), by);
    }
    return text;
}

} // namespace

TEST_CASE("the broker's configuration that is shipped lets in whom it should, and gives the rights that it says") {
    const auto folder = std::filesystem::temp_directory_path() / ("ferry-tls-" + std::to_string(::getpid()));
    std::filesystem::create_directories(folder);
    REQUIRE(make_certificates(folder) == "");
    const std::filesystem::path shipped = WIRED_COURIER_BROKER_FILES;
    std::filesystem::copy_file(shipped / "rights", folder / "rights");
    std::filesystem::permissions(folder / "rights", std::filesystem::perms(0700));
    std::string config = text_of(shipped / "mosquitto.conf");
    config = replaced(config, "listener 8883", "listener %PORT% 127.0.0.1");
    config = replaced(config, "/etc/mosquitto/gannet/", folder.string() + "/");
    config = replaced(config, "/var/lib/mosquitto/", "%FOLDER%/");
    const reef::local_broker broker(config);
    const auto secure = [&](const std::string& name) {
        courier::ferry_options made = at(broker, name);
        made.host = "localhost";
        made.security = courier::link_security::tls;
        made.authorities = folder / "ca.crt";
        made.user = name;
        made.password = "secret-of-" + name;
        made.processes_topic = "gannet/processes";
        return made;
    };
    const auto why_not = [&](courier::ferry_options options) {
        courier::ferry one(std::move(options));
        CHECK(until({&one}, [&] { return !one.link().glance().why.empty(); }));
        CHECK(one.report().connections == 0);
        return one.link().glance().why;
    };
    {
        courier::channel<Landed> here("here");
        courier::channel<Landed> there("there");
        courier::channel<Landed> elsewhere("elsewhere");
        courier::channel<Landed> of_others("of others");
        courier::ferry reef(secure("reef-1"));
        courier::ferry office(secure("office"));
        reef.send(here, "gannet/barges/reef-2");
        reef.send(elsewhere, "gannet/reef/reef-2/board");
        reef.receive(of_others, "gannet/barges/reef-2");
        office.receive(there, "gannet/#");
        int got = 0;
        int overheard = 0;
        const auto in = there.subscribe([&] { ++got; });
        const auto not_in = of_others.subscribe([&] { ++overheard; });
        const loss_list lost(reef);
        REQUIRE(connected({&reef, &office}));
        here.publish({1, 1});
        elsewhere.publish({2, 2});
        CHECK(until({&reef, &office}, [&] { return got == 1 && lost.of(ferry_code::not_allowed) == 1; }));
        look_after({&reef, &office}, 50ms);
        CHECK(got == 1);
        CHECK(overheard == 0);
        CHECK(lost.latest.topic == "gannet/reef/reef-2/board");
        CHECK(lost.latest.what == "Not authorized");
    }
    courier::ferry_options wrong = secure("reef-1");
    wrong.password = "guessed";
    CHECK(why_not(wrong) == "Not authorized");
    wrong = secure("reef-1");
    wrong.authorities = folder / "other-ca.crt";
    CHECK(why_not(wrong) != "");
    wrong = secure("reef-1");
    wrong.host = "127.0.0.1"; // not what the certificate is for
    CHECK(why_not(wrong) != "");
    wrong = secure("reef-1");
    wrong.security = courier::link_security::none;
    CHECK(why_not(wrong) != "");
    std::filesystem::remove_all(folder);
}

TEST_CASE("a broker that asks for certificates knows processes by theirs") {
    const auto folder = std::filesystem::temp_directory_path() / ("ferry-names-" + std::to_string(::getpid()));
    std::filesystem::create_directories(folder);
    REQUIRE(make_certificates(folder) == "");
    const std::string here = folder.string();
    const reef::local_broker broker("listener %PORT% 127.0.0.1\ncafile " + here + "/ca.crt\ncertfile " + here +
                                    "/broker.crt\nkeyfile " + here +
                                    "/broker.key\nrequire_certificate true\nuse_identity_as_username true\n"
                                    "log_dest none\n");
    courier::ferry_options options = at(broker, "reef-1");
    options.host = "localhost";
    options.security = courier::link_security::tls;
    options.authorities = folder / "ca.crt";
    {
        courier::ferry none(options);
        CHECK(until({&none}, [&] { return !none.link().glance().why.empty(); }));
        CHECK(none.report().connections == 0);
    }
    options.certificate = folder / "reef-1.crt";
    options.key = folder / "reef-1.key";
    courier::ferry one(options);
    CHECK(until({&one}, [&] { return is_there(one); }));
    std::filesystem::remove_all(folder);
}

TEST_CASE("whatever is not this machine is spoken to with TLS only") {
    bare_broker broker;
    const auto first_byte = [&](const std::string& host, courier::link_security how) {
        courier::ferry_options options;
        options.process = "near";
        options.host = host;
        options.port = broker.port();
        options.security = how;
        courier::ferry near(options);
        near.take_in();
        broker.accept();
        const std::string said = broker.read();
        REQUIRE(!said.empty());
        return static_cast<int>(said.front());
    };
    constexpr int handshake = 0x16; // of TLS
    constexpr int connect = 0x10;   // of MQTT
    // Not known for this machine by its name, though it is.
    CHECK(first_byte("0.0.0.0", courier::link_security::by_host) == handshake);
    CHECK(first_byte("0.0.0.0", courier::link_security::none) == connect);
    CHECK(first_byte("127.0.0.1", courier::link_security::by_host) == connect);
    CHECK(first_byte("localhost", courier::link_security::by_host) == connect);
    CHECK(first_byte("127.0.0.1", courier::link_security::tls) == handshake);
}
