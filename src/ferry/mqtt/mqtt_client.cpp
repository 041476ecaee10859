// SPDX-License-Identifier: MIT
#include "ferry/mqtt/mqtt_client.hpp"

#include <courier/ferry/ferry_fault.hpp>

#include "data/broken_pipes.hpp"

#include <mosquitto.h>
#include <mqtt_protocol.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cerrno>
#include <cstring>
#include <limits>
#include <mutex>
#include <stdexcept>
#include <utility>

#include <signal.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

void begin_library() {
    static std::once_flag once;
    std::call_once(once, [] { mosquitto_lib_init(); });
}

/// libmosquitto makes what all connections with TLS have in common when the first one is made,
/// without looking whether another thread does so, too.
class first_tls {
public:
    explicit first_tls(bool uses_tls) : uses_tls_(uses_tls) {
        if (uses_tls && !is_made.load(std::memory_order_acquire)) {
            lock_ = std::unique_lock(one_at_a_time);
        }
    }
    void made() noexcept {
        if (uses_tls_) {
            is_made.store(true, std::memory_order_release);
        }
    }

private:
    static inline std::mutex one_at_a_time;
    static inline std::atomic<bool> is_made{false};
    bool uses_tls_;
    std::unique_lock<std::mutex> lock_;
};

/// Properties on their way out.
class property_list {
public:
    property_list() = default;
    property_list(const property_list&) = delete;
    property_list& operator=(const property_list&) = delete;
    ~property_list() { mosquitto_property_free_all(&first_); }

    void add(int which, const std::string& text) { note(mosquitto_property_add_string(&first_, which, text.c_str())); }
    void add_number(int which, std::uint32_t number) { note(mosquitto_property_add_int32(&first_, which, number)); }
    void add_bytes(int which, const std::string& bytes) {
        note(mosquitto_property_add_binary(&first_, which, bytes.data(), static_cast<std::uint16_t>(bytes.size())));
    }
    void add_pair(const char* name, const std::string& value) {
        note(mosquitto_property_add_string_pair(&first_, MQTT_PROP_USER_PROPERTY, name, value.c_str()));
    }
    /// Null without memory for all of them.
    [[nodiscard]] const mosquitto_property* list() const noexcept { return first_; }
    [[nodiscard]] mosquitto_property* release() noexcept { return std::exchange(first_, nullptr); }
    [[nodiscard]] bool is_fine() const noexcept { return fine_; }

private:
    void note(int code) noexcept { fine_ = fine_ && code == MOSQ_ERR_SUCCESS; }

    mosquitto_property* first_ = nullptr;
    bool fine_ = true;
};

// CloudEvents' binding to MQTT 5, in binary mode: attributes are user properties.
void put_head(const crossing_head& head, property_list& to) {
    to.add(MQTT_PROP_CONTENT_TYPE, head.content_type);
    if (!head.response_topic.empty()) {
        to.add(MQTT_PROP_RESPONSE_TOPIC, head.response_topic);
    }
    if (!head.correlation.empty()) {
        to.add_bytes(MQTT_PROP_CORRELATION_DATA, head.correlation);
    }
    if (head.expires_in != 0) {
        to.add_number(MQTT_PROP_MESSAGE_EXPIRY_INTERVAL, head.expires_in);
    }
    to.add_pair("specversion", "1.0");
    to.add_pair("id", head.id);
    to.add_pair("source", head.source);
    to.add_pair("type", head.type);
    if (!head.traceparent.empty()) {
        to.add_pair("traceparent", head.traceparent);
    }
}

/// What the library allocates for whoever asks.
class lent_text {
public:
    lent_text() = default;
    lent_text(const lent_text&) = delete;
    lent_text& operator=(const lent_text&) = delete;
    ~lent_text() { std::free(text); }
    char* text = nullptr;
};

void take_pair(const mosquitto_property* from, crossing_head& head) {
    lent_text name;
    lent_text value;
    if (mosquitto_property_read_string_pair(from, MQTT_PROP_USER_PROPERTY, &name.text, &value.text, false) == nullptr) {
        return;
    }
    const std::string_view key = name.text;
    if (key == "id") {
        head.id = value.text;
    } else if (key == "source") {
        head.source = value.text;
    } else if (key == "type") {
        head.type = value.text;
    } else if (key == "traceparent") {
        head.traceparent = value.text;
    } else if (key == "specversion") {
        head.is_event = std::strcmp(value.text, "1.0") == 0;
    }
}

void take_property(const mosquitto_property* from, crossing_head& head) {
    const int which = mosquitto_property_identifier(from);
    if (which == MQTT_PROP_USER_PROPERTY) {
        take_pair(from, head);
    } else if (which == MQTT_PROP_CONTENT_TYPE || which == MQTT_PROP_RESPONSE_TOPIC) {
        lent_text value;
        if (mosquitto_property_read_string(from, which, &value.text, false) != nullptr) {
            (which == MQTT_PROP_CONTENT_TYPE ? head.content_type : head.response_topic) = value.text;
        }
    } else if (which == MQTT_PROP_CORRELATION_DATA) {
        void* bytes = nullptr;
        std::uint16_t size = 0;
        if (mosquitto_property_read_binary(from, which, &bytes, &size, false) != nullptr) {
            head.correlation.assign(static_cast<const char*>(bytes), size);
            std::free(bytes);
        }
    }
}

std::string text_of_error(int code) {
    return code == MOSQ_ERR_ERRNO ? std::strerror(errno) : mosquitto_strerror(code);
}

bool is_of_the_connection(int code) noexcept {
    return code == MOSQ_ERR_NO_CONN || code == MOSQ_ERR_CONN_LOST || code == MOSQ_ERR_ERRNO || code == MOSQ_ERR_TLS;
}

constexpr int displaced = MQTT_RC_SESSION_TAKEN_OVER;
constexpr int session_present = 1;        // of MQTT 5, section 3.2.2.1.1
constexpr int first_failure_reason = 128; // of MQTT 5, section 2.4

} // namespace

struct mqtt_client::callbacks {
    static mqtt_client& of(void* client) { return *static_cast<mqtt_client*>(client); }

    static void connected(mosquitto*, void* client, int code, int flags, const mosquitto_property*) {
        mqtt_client& self = of(client);
        if (code == 0) {
            self.is_there_ = true;
            self.to_.connected((flags & session_present) != 0);
        } else {
            self.why_ = mosquitto_reason_string(code);
            self.to_.refused(self.why_);
        }
    }
    static void disconnected(mosquitto*, void* client, int code, const mosquitto_property*) {
        mqtt_client& self = of(client);
        self.is_there_ = false;
        const bool by_broker = code >= first_failure_reason;
        self.to_.disconnected(by_broker ? mosquitto_reason_string(code) : text_of_error(code), code == displaced);
    }
    static void confirmed(mosquitto*, void* client, int number, int code, const mosquitto_property*) {
        of(client).to_.confirmed(number, code >= first_failure_reason ? mosquitto_reason_string(code) : "");
    }
    static void subscribed(mosquitto*, void* client, int number, int count, const int* granted,
                           const mosquitto_property*) {
        of(client).to_.subscribed(
            number, std::all_of(granted, granted + count, [](int one) { return one < first_failure_reason; }));
    }
    static void arrived(mosquitto*, void* client, const mosquitto_message* what, const mosquitto_property* properties) {
        mqtt_client& self = of(client);
        crossing_head& head = self.head_;
        head.clear();
        head.topic = what->topic;
        head.is_retained = what->retain;
        head.qos = static_cast<std::uint8_t>(what->qos);
        for (const auto* one = properties; one != nullptr; one = mosquitto_property_next(one)) {
            take_property(one, head);
        }
        self.to_.arrived(head, {static_cast<const char*>(what->payload), static_cast<std::size_t>(what->payloadlen)});
    }
};

void mqtt_client::closer::operator()(mosquitto* one) const noexcept {
    mosquitto_destroy(one);
}

mqtt_client::mqtt_client(const ferry_options& options, const last_will* will, client_listener& to)
    : options_(options), to_(to) {
    begin_library();
    const pipe_action_kept before;
    mosq_.reset(mosquitto_new(options.process.c_str(), false, this));
    before.put_back(); // which it has set for the whole program
    if (mosq_ == nullptr) {
        throw std::bad_alloc();
    }
    mosquitto* const m = mosq_.get();
    mosquitto_int_option(m, MOSQ_OPT_PROTOCOL_VERSION, MQTT_PROTOCOL_V5);
    mosquitto_int_option(m, MOSQ_OPT_SEND_MAXIMUM, options.max_unconfirmed);
    mosquitto_int_option(m, MOSQ_OPT_TCP_NODELAY, 1);
    mosquitto_connect_v5_callback_set(m, &callbacks::connected);
    mosquitto_disconnect_v5_callback_set(m, &callbacks::disconnected);
    mosquitto_publish_v5_callback_set(m, &callbacks::confirmed);
    mosquitto_subscribe_v5_callback_set(m, &callbacks::subscribed);
    mosquitto_message_v5_callback_set(m, &callbacks::arrived);
    if (!options.user.empty()) {
        mosquitto_username_pw_set(m, options.user.c_str(), options.password.c_str());
    }
    if (will != nullptr) {
        property_list properties;
        put_head(will->head, properties);
        properties.add_number(MQTT_PROP_WILL_DELAY_INTERVAL, static_cast<std::uint32_t>(options.absence.count()));
        mosquitto_will_set_v5(m, will->head.topic.c_str(), static_cast<int>(will->payload.size()), will->payload.data(),
                              1, true, properties.release());
    }
    secure();
}

mqtt_client::~mqtt_client() = default;

void mqtt_client::secure() {
    uses_tls_ = options_.security == link_security::tls ||
                (options_.security == link_security::by_host && !is_loopback(options_.host));
    if (!uses_tls_) {
        return;
    }
    const auto text = [](const std::filesystem::path& from) { return from.empty() ? nullptr : from.c_str(); };
    const char* const trusted = options_.authorities.empty() ? "/etc/ssl/certs" : nullptr;
    const int code = mosquitto_tls_set(mosq_.get(), text(options_.authorities), trusted, text(options_.certificate),
                                       text(options_.key), nullptr);
    if (code != MOSQ_ERR_SUCCESS || mosquitto_tls_opts_set(mosq_.get(), 1, nullptr, nullptr) != MOSQ_ERR_SUCCESS) {
        throw ferry_error(ferry_code::bad_file, "the certificates cannot be read: " + text_of_error(code), {},
                          "look at ferry_options::authorities, certificate and key");
    }
}

std::string mqtt_client::connect() {
    const int port = options_.port != 0 ? options_.port : uses_tls_ ? 8883 : 1883;
    const int keep_alive = static_cast<int>(options_.keep_alive.count());
    property_list properties;
    properties.add_number(MQTT_PROP_SESSION_EXPIRY_INTERVAL, static_cast<std::uint32_t>(options_.session_time.count()));
    properties.add_number(MQTT_PROP_MAXIMUM_PACKET_SIZE,
                          static_cast<std::uint32_t>(std::min<std::size_t>(options_.largest_payload + 4096, 1U << 28)));
    // There is no call that takes properties and does not wait for the connection; but the one that does
    // notes them before it looks at the port, and the other one uses them.
    static_cast<void>(
        mosquitto_connect_bind_v5(mosq_.get(), options_.host.c_str(), -1, keep_alive, nullptr, properties.list()));
    first_tls guard(uses_tls_);
    const int code = mosquitto_connect_bind_async(mosq_.get(), options_.host.c_str(), port, keep_alive, nullptr);
    if (socket() >= 0) {
        guard.made();
    }
    return broken(code);
}

void mqtt_client::disconnect() {
    mosquitto_disconnect_v5(mosq_.get(), 0, nullptr);
}

void mqtt_client::drop() {
    mosquitto_disconnect_v5(mosq_.get(), MQTT_RC_DISCONNECT_WITH_WILL_MSG, nullptr);
}

int mqtt_client::socket() const {
    return mosquitto_socket(mosq_.get());
}

// A handshake of TLS was tried before the socket was connected; it goes on when that is.
bool mqtt_client::wants_write() const {
    return mosquitto_want_write(mosq_.get()) || (uses_tls_ && !is_open_);
}

std::string mqtt_client::broken(int code) {
    if (code == MOSQ_ERR_SUCCESS || code == MOSQ_ERR_CONN_PENDING) {
        return {};
    }
    is_there_ = false;
    return why_.empty() ? text_of_error(code) : why_;
}

std::string mqtt_client::read() {
    return broken(mosquitto_loop_read(mosq_.get(), 1));
}

std::string mqtt_client::write() {
    is_open_ = true;
    if (uses_tls_ && !is_there_) { // a handshake goes on by reading, even where it waits to write
        if (std::string why = read(); !why.empty()) {
            return why;
        }
    }
    return broken(mosquitto_loop_write(mosq_.get(), 1));
}

std::string mqtt_client::rest() {
    return broken(mosquitto_loop_misc(mosq_.get()));
}

std::string mqtt_client::publish(const crossing_head& head, std::string_view payload, int& number) {
    property_list properties;
    put_head(head, properties);
    if (!properties.is_fine()) {
        return "out of memory, or text that is not UTF-8";
    }
    const int code = mosquitto_publish_v5(mosq_.get(), &number, head.topic.c_str(), static_cast<int>(payload.size()),
                                          payload.data(), head.qos, head.is_retained, properties.list());
    is_broken_ = is_of_the_connection(code);
    return code == MOSQ_ERR_SUCCESS ? std::string() : text_of_error(code);
}

std::string mqtt_client::subscribe(const std::string& filter, std::uint8_t qos, bool with_kept, bool hears_itself,
                                   int& number) {
    const int options = (with_kept ? MQTT_SUB_OPT_SEND_RETAIN_ALWAYS : MQTT_SUB_OPT_SEND_RETAIN_NEW) |
                        (hears_itself ? 0 : MQTT_SUB_OPT_NO_LOCAL);
    const int code = mosquitto_subscribe_v5(mosq_.get(), &number, filter.c_str(), qos, options, nullptr);
    is_broken_ = is_of_the_connection(code);
    return code == MOSQ_ERR_SUCCESS ? std::string() : text_of_error(code);
}

bool is_loopback(std::string_view host) {
    return host == "localhost" || host.starts_with("127.") || host == "::1";
}

std::string wrong_with_topic(std::string_view topic) {
    if (topic.empty() || topic.size() > std::numeric_limits<std::uint16_t>::max() ||
        mosquitto_pub_topic_check2(topic.data(), topic.size()) != MOSQ_ERR_SUCCESS) {
        return "is not a topic to publish to: 1 to 65535 bytes, without '+' and '#'";
    }
    if (topic.front() == '$') {
        return "begins with '$', which is the broker's own";
    }
    return mosquitto_validate_utf8(topic.data(), static_cast<int>(topic.size())) == MOSQ_ERR_SUCCESS
               ? std::string()
               : "is not UTF-8, or has a control character in it";
}

std::string wrong_with_filter(std::string_view filter) {
    if (filter.empty() || filter.size() > std::numeric_limits<std::uint16_t>::max() ||
        mosquitto_sub_topic_check2(filter.data(), filter.size()) != MOSQ_ERR_SUCCESS) {
        return "is not a filter of topics: '+' stands for one whole level, and '#' for all the last ones";
    }
    if (filter.front() == '$') {
        return "begins with '$', which is the broker's own; give inward_options::share_name to share";
    }
    return mosquitto_validate_utf8(filter.data(), static_cast<int>(filter.size())) == MOSQ_ERR_SUCCESS
               ? std::string()
               : "is not UTF-8, or has a control character in it";
}

bool matches(std::string_view filter, std::string_view topic) {
    bool does = false;
    return mosquitto_topic_matches_sub2(filter.data(), filter.size(), topic.data(), topic.size(), &does) ==
               MOSQ_ERR_SUCCESS &&
           does;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
