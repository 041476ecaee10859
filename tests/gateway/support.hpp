// A small harbour with a gateway, and clients for it.
#pragma once

#include "../support.hpp"
#include <courier/gateway/gateway.hpp>
#include <courier/wiring/wiring.hpp>

#include <nlohmann/json.hpp>

#include <httplib.h>

namespace test {

enum class tone { brief, prolonged };

struct Landed {
    int barge = 0;
    int crates = 0;
    bool operator==(const Landed&) const = default;
};
struct Hailed {
    std::string by;
    tone how = tone::brief;
};
struct Ring {
    std::uint8_t strokes = 1;
    std::optional<tone> how;
    std::optional<std::vector<int>> pauses;
    std::optional<double> pitch;
};
enum class bell_id { south, north };

/// What may be in the world that a gateway shows.
struct harbour {
    courier::channel<Landed> landed{"harbour.landed"};
    courier::channel<Hailed> hailed{"harbour.hailed"};
    courier::addressed_channel<Landed, int> to_berth{"harbour.to_berth"};
    courier::state<int> crates{"harbour.crates", 35};
    courier::subscriber in{"keeper"};
    courier::wiring wires{"harbour"};
    std::vector<std::string> heard;

    harbour() {
        in.subscribe(hailed, [this](const Hailed& h) {
            heard.push_back(h.by + (h.how == tone::brief ? " briefly" : " for long"));
        });
        wires.action<Ring>(in, "bell.ring", [this](const Ring& r) -> courier::outcome<int> {
            if (r.strokes > 8) {
                return courier::failed{"the clapper is stuck"};
            }
            heard.push_back("ring " + std::to_string(r.strokes));
            return static_cast<int>(r.strokes) * 2;
        });
        wires.action<Ring>(in, "bell.toll", bell_id::south, [this](const Ring&) { heard.emplace_back("toll"); });
    }
};

/// Runs the game while somebody else does something; false when that takes too long.
inline bool frames_during(const std::function<void()>& frame, const std::function<void()>& elsewhere) {
    std::atomic<bool> is_done{false};
    std::thread other([&] {
        elsewhere();
        is_done = true;
    });
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(30);
    while (!is_done && std::chrono::steady_clock::now() < until) {
        frame();
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    const bool in_time = is_done;
    other.join();
    return in_time;
}

inline httplib::Client client_of(const courier::gateway& out) {
    std::string address = out.address();
    address.pop_back();
    httplib::Client one(address);
    one.set_read_timeout(10);
    return one;
}

/// An answer, as far as tests look at it.
struct answer {
    int status = 0;
    nlohmann::json body;
    std::string text;
    httplib::Headers headers;
};
inline answer as_answer(const httplib::Result& from) {
    answer made;
    if (from) {
        made.status = from->status;
        made.text = from->body;
        made.body = nlohmann::json::parse(from->body, nullptr, false);
        made.headers = from->headers;
    }
    return made;
}

inline answer get(const courier::gateway& out, const std::string& path, const httplib::Headers& headers = {}) {
    httplib::Client by = client_of(out);
    return as_answer(by.Get(path, headers));
}
inline answer post(const courier::gateway& out, const std::string& path, const std::string& body) {
    httplib::Client by = client_of(out);
    return as_answer(by.Post(path, {{"Authorization", "Bearer " + out.token()}}, body, "application/json"));
}

/// A message of a stream.
struct message {
    std::string event;
    std::string id;
    nlohmann::json data;

    [[nodiscard]] std::string subject() const { return data.value("subject", std::string()); }
    [[nodiscard]] std::string type() const { return data.value("type", std::string()); }
    /// A number in it, such as at("/data/payload/barge"); INT_MIN: none.
    [[nodiscard]] int at(const char* pointer) const {
        return data.value(nlohmann::json::json_pointer(pointer), std::numeric_limits<int>::min());
    }
};

/// Reads a stream until `enough` says so, or it ends.
inline std::vector<message> read_stream(const courier::gateway& out, const std::string& path, const std::string& last,
                                        const std::function<bool(const std::vector<message>&)>& enough) {
    httplib::Client by = client_of(out);
    httplib::Headers headers;
    if (!last.empty()) {
        headers.emplace("Last-Event-ID", last);
    }
    std::vector<message> all;
    std::string came;
    std::string latest = last;
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(20); // comments come all the time
    by.Get(path, headers, [&](const char* bytes, std::size_t size) {
        if (std::chrono::steady_clock::now() > until) {
            return false;
        }
        came.append(bytes, size);
        for (std::size_t end = came.find("\n\n"); end != std::string::npos; end = came.find("\n\n")) {
            message one;
            std::string data;
            for (std::size_t at = 0; at <= end;) {
                const std::size_t stop = std::min(came.find('\n', at), end);
                const std::string line = came.substr(at, stop - at);
                if (line.starts_with("id: ")) {
                    latest = line.substr(4);
                } else if (line.starts_with("event: ")) {
                    one.event = line.substr(7);
                } else if (line.starts_with("data: ")) {
                    data = line.substr(6);
                }
                at = stop + 1;
            }
            came.erase(0, end + 2);
            if (!data.empty()) {
                one.id = latest;
                one.data = nlohmann::json::parse(data, nullptr, false);
                all.push_back(std::move(one));
            } else if (!all.empty()) {
                all.back().id = latest;
            }
            if (!all.empty() && enough(all)) {
                return false;
            }
        }
        return true;
    });
    return all;
}

} // namespace test
