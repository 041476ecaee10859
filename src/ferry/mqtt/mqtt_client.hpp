// One connection to a broker, by MQTT 5. All that is known of libmosquitto is known here.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/ferry/ferry_options.hpp>

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

struct mosquitto;
struct mosquitto_message;

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline constexpr std::string_view json_content = "application/json";
inline constexpr std::string_view cbor_content = "application/cbor";

/// What an MQTT message has beside its payload, CloudEvents' attributes among it.
struct crossing_head {
    std::string topic;
    std::string content_type;
    std::string id;
    std::string source;
    std::string type;
    std::string traceparent;
    std::string response_topic;
    std::string correlation;
    std::uint32_t expires_in = 0; ///< seconds, outwards; 0: never
    bool is_event = false;        ///< of the version of CloudEvents that is known here
    bool is_retained = false;
    std::uint8_t qos = 0;

    /// As it was made, but for the memory of its texts.
    void clear() noexcept {
        for (std::string* const one :
             {&topic, &content_type, &id, &source, &type, &traceparent, &response_topic, &correlation}) {
            one->clear();
        }
        expires_in = 0;
        is_event = false;
        is_retained = false;
        qos = 0;
    }
};

/// Is told what comes; on the thread that drives the client, in the middle of its reading.
class client_listener {
public:
    /// `is_known`: the broker remembers this client.
    virtual void connected(bool is_known) = 0;
    virtual void refused(std::string why) = 0;
    /// `is_displaced`: by another client with the same name.
    virtual void disconnected(std::string why, bool is_displaced) = 0;
    /// The broker has it; or `why` not.
    virtual void confirmed(int number, std::string_view why) = 0;
    virtual void subscribed(int number, bool is_granted) = 0;
    virtual void arrived(const crossing_head& head, std::string_view payload) = 0;

protected:
    client_listener() = default;
    client_listener(const client_listener&) = default;
    client_listener& operator=(const client_listener&) = default;
    ~client_listener() = default;
};

/// What is said of a process that died; sent by the broker.
struct last_will {
    crossing_head head;
    std::string payload;
};

/// Belongs to one thread. Errors come as texts, empty where there is none.
class mqtt_client {
public:
    /// Throws `ferry_error` when certificates cannot be read.
    mqtt_client(const ferry_options& options, const last_will* will, client_listener& to);
    mqtt_client(const mqtt_client&) = delete;
    mqtt_client& operator=(const mqtt_client&) = delete;
    ~mqtt_client();

    /// Begins to connect, once. It may wait for a name server, for nothing else.
    [[nodiscard]] std::string connect();
    /// Takes leave, so that nobody is told that it died.
    void disconnect();
    /// Breaks it off.
    void drop();

    [[nodiscard]] int socket() const; ///< -1: none
    [[nodiscard]] bool wants_write() const;
    /// Whether the last call has failed since the connection is broken.
    [[nodiscard]] bool is_broken() const noexcept { return is_broken_; }
    /// The socket can be read or written, or some time has passed. Why it is broken; else empty.
    [[nodiscard]] std::string read();
    [[nodiscard]] std::string write();
    [[nodiscard]] std::string rest();

    /// Hands a message over; `number` is what it is confirmed by. Why it cannot be; else empty.
    [[nodiscard]] std::string publish(const crossing_head& head, std::string_view payload, int& number);
    [[nodiscard]] std::string subscribe(const std::string& filter, std::uint8_t qos, bool with_kept, bool hears_itself,
                                        int& number);

private:
    struct callbacks;
    struct closer {
        void operator()(mosquitto* one) const noexcept;
    };
    void secure();
    [[nodiscard]] std::string broken(int code);

    const ferry_options options_;
    client_listener& to_;
    std::unique_ptr<mosquitto, closer> mosq_;
    bool uses_tls_ = false;
    bool is_open_ = false;  ///< the socket is connected
    bool is_there_ = false; ///< to a broker that has let it in
    bool is_broken_ = false;
    std::string why_;    ///< said by a callback
    crossing_head head_; ///< of what arrives; used again
};

/// Whether what goes to `host` stays on this machine.
[[nodiscard]] bool is_loopback(std::string_view host);
/// Empty, or what is wrong with a topic to publish to; with a filter to subscribe to.
[[nodiscard]] std::string wrong_with_topic(std::string_view topic);
[[nodiscard]] std::string wrong_with_filter(std::string_view filter);
[[nodiscard]] bool matches(std::string_view filter, std::string_view topic);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
