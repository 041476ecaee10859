// When the broker counts as being there.
#include "bare_broker.hpp"
#include "support.hpp"

using namespace test;

namespace {

// Of MQTT 5, sections 3.1 to 3.9.
constexpr char connect_packet = 0x10;
constexpr char subscribe_packet = static_cast<char>(0x82);
const std::string welcome("\x20\x03\x00\x00\x00", 5);

const std::string topic = "t/kept";

std::size_t times_in(const std::string& said) {
    std::size_t found = 0;
    for (std::size_t at = said.find(topic); at != std::string::npos; at = said.find(topic, at + 1)) {
        ++found;
    }
    return found;
}

std::string confirmation_of(const std::string& publish) {
    return std::string("\x40\x02", 2) + publish.substr(publish.find(topic) + topic.size(), 2);
}

courier::ferry_options at(const bare_broker& broker, std::string process) {
    courier::ferry_options made;
    made.process = std::move(process);
    made.port = broker.port();
    made.min_retry = 10ms;
    return made;
}

/// Lets the ferry in, as a broker does that knows nothing of it.
void let_in(bare_broker& broker, courier::ferry& one) {
    one.take_in();
    broker.accept();
    REQUIRE(broker.read().front() == connect_packet);
    CHECK(until({&one}, [&] { return !is_there(one); })); // any more, or yet
    broker.say(welcome);
}

std::string answer_to(const std::string& subscribe, char reason) {
    return std::string("\x90\x04", 2) + subscribe.substr(2, 2) + std::string(1, '\0') + reason;
}

} // namespace

TEST_CASE("the broker is there once it has answered what this process receives") {
    bare_broker broker;
    courier::channel<Landed> there("there");
    for (const char reason : {'\x01', '\x87'}) { // granted, and not authorized
        courier::ferry far(at(broker, "far"));
        far.receive(there, "t/landed");
        const loss_list lost(far);
        let_in(broker, far);
        const std::string subscribe = broker.read();
        REQUIRE(subscribe.front() == subscribe_packet);
        REQUIRE(until({&far}, [&] { return far.report().connections == 1; }));
        look_after({&far}, 50ms);
        CHECK(!is_there(far));
        broker.say(answer_to(subscribe, reason));
        CHECK(until({&far}, [&] { return is_there(far); }));
        CHECK(until({&far}, [&] { return lost.of(courier::ferry_code::not_allowed) == (reason < 0 ? 1U : 0U); }));
    }
}

TEST_CASE("where nothing is received, the broker is there at once") {
    bare_broker broker;
    courier::ferry near(at(broker, "near"));
    let_in(broker, near);
    CHECK(until({&near}, [&] { return is_there(near); }));
}

TEST_CASE("what a forgetful broker is to keep is sent once in each connection, however often it breaks") {
    bare_broker broker;
    courier::channel<Landed> here("here");
    courier::ferry_options options = at(broker, "near");
    options.sent_again = 0ms;
    courier::ferry near(options);
    near.send(here, topic, {.guarantee = courier::guarantee::exactly_once, .kept_by_broker = true});
    here.publish({1, 0});
    for (std::uint64_t connection = 1; connection <= 4; ++connection) {
        let_in(broker, near);
        REQUIRE(until({&near}, [&] { return near.report().sent == connection; }));
        look_after({&near}, 20ms);
        const std::string said = broker.read();
        REQUIRE(times_in(said) == 1);
        if (connection == 1) {
            broker.say(confirmation_of(said));
            REQUIRE(until({&near}, [&] { return near.report().confirmed == 1; }));
        }
    }
}
