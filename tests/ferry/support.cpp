#include "support.hpp"

#include <mosquitto.h>
#include <mqtt_protocol.h>

#include <arpa/inet.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace test {

namespace {

struct callbacks {
    static std::string text(char* lent) {
        std::string made = lent != nullptr ? lent : "";
        std::free(lent);
        return made;
    }
    static other_program::message message_of(const mosquitto_message& what, const mosquitto_property* properties) {
        other_program::message made;
        made.topic = what.topic;
        made.payload.assign(static_cast<const char*>(what.payload), static_cast<std::size_t>(what.payloadlen));
        made.qos = what.qos;
        made.is_retained = what.retain;
        for (const auto* one = properties; one != nullptr; one = mosquitto_property_next(one)) {
            const int which = mosquitto_property_identifier(one);
            if (which == MQTT_PROP_USER_PROPERTY) {
                char* name = nullptr;
                char* value = nullptr;
                mosquitto_property_read_string_pair(one, which, &name, &value, false);
                const std::string key = text(name);
                made.properties[key] = text(value);
            } else if (which == MQTT_PROP_CONTENT_TYPE || which == MQTT_PROP_RESPONSE_TOPIC) {
                char* value = nullptr;
                mosquitto_property_read_string(one, which, &value, false);
                (which == MQTT_PROP_CONTENT_TYPE ? made.content_type : made.response_topic) = text(value);
            } else if (which == MQTT_PROP_CORRELATION_DATA) {
                void* bytes = nullptr;
                std::uint16_t size = 0;
                mosquitto_property_read_binary(one, which, &bytes, &size, false);
                made.correlation.assign(static_cast<const char*>(bytes), size);
                std::free(bytes);
            } else if (which == MQTT_PROP_MESSAGE_EXPIRY_INTERVAL) {
                mosquitto_property_read_int32(one, which, &made.expires_in, false);
            }
        }
        return made;
    }
};

sockaddr_in loopback(int port) {
    sockaddr_in to{};
    to.sin_family = AF_INET;
    to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    to.sin_port = htons(static_cast<std::uint16_t>(port));
    return to;
}

} // namespace

other_program::other_program(int port, const std::string& name) {
    mosquitto_lib_init();
    client_ = mosquitto_new(name.c_str(), true, this);
    mosquitto_int_option(client_, MOSQ_OPT_PROTOCOL_VERSION, MQTT_PROTOCOL_V5);
    mosquitto_message_v5_callback_set(
        client_, [](mosquitto*, void* self, const mosquitto_message* what, const mosquitto_property* properties) {
            auto& own = *static_cast<other_program*>(self);
            const std::lock_guard lock(own.guard_);
            own.heard_.push_back(callbacks::message_of(*what, properties));
        });
    mosquitto_subscribe_callback_set(
        client_, [](mosquitto*, void* self, int, int, const int*) { ++static_cast<other_program*>(self)->granted_; });
    if (mosquitto_connect(client_, "127.0.0.1", port, 60) != MOSQ_ERR_SUCCESS ||
        mosquitto_loop_start(client_) != MOSQ_ERR_SUCCESS) {
        throw std::runtime_error("no connection to the broker");
    }
}

other_program::~other_program() {
    mosquitto_disconnect(client_);
    mosquitto_loop_stop(client_, true);
    mosquitto_destroy(client_);
}

void other_program::subscribe(const std::string& filter) {
    const int before = granted_;
    mosquitto_subscribe(client_, nullptr, filter.c_str(), 2);
    const auto end = std::chrono::steady_clock::now() + 10s;
    while (granted_ == before && std::chrono::steady_clock::now() < end) {
        std::this_thread::sleep_for(1ms);
    }
}

void other_program::send(const message& what) {
    mosquitto_property* properties = nullptr;
    for (const auto& [name, value] : what.properties) {
        mosquitto_property_add_string_pair(&properties, MQTT_PROP_USER_PROPERTY, name.c_str(), value.c_str());
    }
    if (!what.content_type.empty()) {
        mosquitto_property_add_string(&properties, MQTT_PROP_CONTENT_TYPE, what.content_type.c_str());
    }
    if (!what.response_topic.empty()) {
        mosquitto_property_add_string(&properties, MQTT_PROP_RESPONSE_TOPIC, what.response_topic.c_str());
    }
    if (!what.correlation.empty()) {
        mosquitto_property_add_binary(&properties, MQTT_PROP_CORRELATION_DATA, what.correlation.data(),
                                      static_cast<std::uint16_t>(what.correlation.size()));
    }
    mosquitto_publish_v5(client_, nullptr, what.topic.c_str(), static_cast<int>(what.payload.size()),
                         what.payload.data(), what.qos, what.is_retained, properties);
    mosquitto_property_free_all(&properties);
}

std::vector<other_program::message> other_program::heard() const {
    const std::lock_guard lock(guard_);
    return heard_;
}

middle::middle(int broker_port)
    : broker_port_(broker_port), listener_(::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0)) {
    sockaddr_in here = loopback(0);
    socklen_t size = sizeof here;
    if (::bind(listener_, reinterpret_cast<const sockaddr*>(&here), sizeof here) != 0 || ::listen(listener_, 8) != 0 ||
        ::getsockname(listener_, reinterpret_cast<sockaddr*>(&here), &size) != 0) {
        throw std::runtime_error("nobody can stand in the middle");
    }
    port_ = ntohs(here.sin_port);
    thread_ = std::thread([this] { run(); });
}

middle::~middle() {
    over_ = true;
    thread_.join();
    ::close(listener_);
}

void middle::cut_after(bool to_broker, std::int64_t bytes) {
    (to_broker ? left_to_broker_ : left_from_broker_) = bytes;
}

void middle::run() {
    while (!over_) {
        pollfd on{listener_, POLLIN, 0};
        if (::poll(&on, 1, 20) > 0) {
            serve(::accept(listener_, nullptr, nullptr));
        }
    }
}

void middle::serve(int client) {
    const int broker = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    const sockaddr_in to = loopback(broker_port_);
    constexpr int at_once = 1;
    ::setsockopt(broker, IPPROTO_TCP, TCP_NODELAY, &at_once, sizeof at_once);
    ::setsockopt(client, IPPROTO_TCP, TCP_NODELAY, &at_once, sizeof at_once);
    if (::connect(broker, reinterpret_cast<const sockaddr*>(&to), sizeof to) == 0) {
        bool goes_on = true;
        while (!over_ && goes_on) {
            if (holds_) {
                std::this_thread::sleep_for(5ms);
                continue;
            }
            std::array<pollfd, 2> on{{{client, POLLIN, 0}, {broker, POLLIN, 0}}};
            if (::poll(on.data(), on.size(), 20) > 0) {
                goes_on = (on[0].revents == 0 || pass(client, broker, true)) &&
                          (on[1].revents == 0 || pass(broker, client, false));
            }
        }
    }
    ::close(client);
    ::close(broker);
}

bool middle::pass(int from, int to, bool to_broker) {
    std::array<char, 512> some{};
    ssize_t got = ::recv(from, some.data(), some.size(), 0);
    if (got <= 0) {
        return false;
    }
    std::atomic<std::int64_t>& left = to_broker ? left_to_broker_ : left_from_broker_;
    const std::int64_t allowed = left;
    const bool is_last = allowed >= 0 && got >= allowed;
    got = is_last ? static_cast<ssize_t>(allowed) : got;
    const bool went = got == 0 || ::send(to, some.data(), static_cast<std::size_t>(got), MSG_NOSIGNAL) == got;
    if (is_last) {
        left = -1;
        ++cuts_;
        return false;
    }
    if (allowed >= 0) {
        left = allowed - got;
    }
    return went;
}

} // namespace test
