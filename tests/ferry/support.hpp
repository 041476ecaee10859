// Processes in one: ferries with what they carry, a broker, and those who trouble them.
#pragma once

#include "../../demo/local_broker.hpp"
#include "../support.hpp"

#include <courier/ferry/ferry.hpp>
#include <courier/ferry/remote_query.hpp>

struct mosquitto;
struct mosquitto_message;

namespace test {

using namespace std::chrono_literals;

struct Landed {
    int barge = 0;
    int crates = 0;
    bool operator==(const Landed&) const = default;
};

/// Looks after ferries until something is so; whether it came to be.
inline bool until(std::initializer_list<courier::ferry*> all, const std::function<bool()>& is_so,
                  std::chrono::milliseconds longest = 10s) {
    const auto end = std::chrono::steady_clock::now() + longest;
    while (!is_so()) {
        if (std::chrono::steady_clock::now() > end) {
            return false;
        }
        for (courier::ferry* const one : all) {
            one->take_in();
        }
        std::this_thread::sleep_for(1ms);
    }
    return true;
}
/// The same for a while.
inline void look_after(std::initializer_list<courier::ferry*> all, std::chrono::milliseconds how_long) {
    static_cast<void>(until(
        all, [] { return false; }, how_long));
}

inline courier::ferry_options at(const reef::local_broker& broker, std::string process) {
    courier::ferry_options made;
    made.process = std::move(process);
    made.port = broker.port();
    made.min_retry = 20ms;
    made.max_retry = 100ms;
    return made;
}

inline bool is_there(const courier::ferry& one) {
    return one.link().glance().phase == courier::link_phase::connected;
}

/// Waits until these are connected, and hear what they were told to receive before.
inline bool connected(std::initializer_list<courier::ferry*> all) {
    return until(all,
                 [&] { return std::all_of(all.begin(), all.end(), [](const auto* one) { return is_there(*one); }); });
}

/// What a ferry lost, by reason.
class loss_list {
public:
    explicit loss_list(const courier::ferry& of) {
        in_.subscribe(of.lost(), [this](const courier::payloads_lost& one) {
            times_[one.code] += one.times;
            latest = one;
        });
    }
    [[nodiscard]] std::uint64_t of(courier::ferry_code why) const {
        const auto found = times_.find(why);
        return found != times_.end() ? found->second : 0;
    }
    courier::payloads_lost latest;

private:
    std::map<courier::ferry_code, std::uint64_t> times_;
    courier::subscriber in_{"losses"};
};

/// Any other program at the broker, which may send whatever it likes.
class other_program {
public:
    struct message {
        std::string topic;
        std::string payload;
        std::string content_type;
        std::map<std::string, std::string> properties;
        std::string response_topic;
        std::string correlation;
        std::uint32_t expires_in = 0; ///< seconds; as it came
        int qos = 1;
        bool is_retained = false;
    };

    other_program(int port, const std::string& name);
    other_program(const other_program&) = delete;
    other_program& operator=(const other_program&) = delete;
    ~other_program();

    void subscribe(const std::string& filter);
    void send(const message& what);
    [[nodiscard]] std::vector<message> heard() const;

private:
    mosquitto* client_;
    std::atomic<int> granted_{0}; ///< subscriptions
    mutable std::mutex guard_;
    std::vector<message> heard_;
};

/// An event as a ferry would send it.
inline other_program::message event_of(std::string topic, std::string payload) {
    static std::atomic<int> newest{0};
    other_program::message made;
    made.topic = std::move(topic);
    made.payload = std::move(payload);
    made.content_type = "application/json";
    made.properties = {{"specversion", "1.0"},
                       {"id", "other-" + std::to_string(++newest)},
                       {"source", "/tools/other"},
                       {"type", "wired-courier.payload"}};
    return made;
}

/// Between a ferry and a broker; can cut connections, and hold back what passes.
class middle {
public:
    explicit middle(int broker_port);
    middle(const middle&) = delete;
    middle& operator=(const middle&) = delete;
    ~middle();

    [[nodiscard]] int port() const noexcept { return port_; }
    /// Cuts what is connected after so many more bytes, to the broker or from it.
    void cut_after(bool to_broker, std::int64_t bytes);
    [[nodiscard]] int cuts() const noexcept { return cuts_; }
    /// Nothing passes for now.
    void hold(bool holds) noexcept { holds_ = holds; }

private:
    void run();
    void serve(int client);
    [[nodiscard]] bool pass(int from, int to, bool to_broker);

    int broker_port_;
    int listener_ = -1;
    int port_ = 0;
    std::atomic<bool> over_{false};
    std::atomic<bool> holds_{false};
    std::atomic<std::int64_t> left_to_broker_{-1};
    std::atomic<std::int64_t> left_from_broker_{-1};
    std::atomic<int> cuts_{0};
    std::thread thread_;
};

} // namespace test
