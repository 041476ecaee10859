#include <courier/gateway/run_follower.hpp>

#include <courier/gateway/gateway.hpp>

#include <nlohmann/json.hpp>

#include <httplib.h>

#include <chrono>
#include <condition_variable>
#include <cstddef>
#include <mutex>
#include <string_view>
#include <thread>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr std::size_t most_lines = 100'000;
constexpr std::size_t longest_message = std::size_t{32} << 20;
constexpr auto pause = std::chrono::milliseconds(500); ///< before a connection is made anew

/// "http://HOST:PORT" of an address.
std::string base_of(const std::string& address) {
    constexpr std::string_view scheme = "http://";
    if (!address.starts_with(scheme) || address.size() == scheme.size()) {
        throw gateway_error("'" + address +
                            "' is no address of a gateway; they look like http://127.0.0.1:8080/ "
                            "[courier.gateway.no-address]");
    }
    return address.substr(0, address.find('/', scheme.size()));
}

/// Cuts a stream into messages (server-sent events).
class message_reader {
public:
    /// Calls `with` with the kind, id and data of each message; false when it is none.
    template <class With>
    bool read(std::string_view bytes, With with) {
        came_ += bytes;
        std::size_t from = 0;
        for (std::size_t end = came_.find('\n'); end != std::string::npos; end = came_.find('\n', from)) {
            line(std::string_view(came_).substr(from, end - from), with);
            from = end + 1;
        }
        came_.erase(0, from);
        return came_.size() <= longest_message;
    }
    void begin_anew() {
        came_.clear();
        kind_.clear();
        data_.clear();
    }

private:
    template <class With>
    void line(std::string_view text, With with) {
        const auto value = [&](std::string_view name) { return text.substr(name.size()); };
        if (text.empty()) {
            with(std::exchange(kind_, {}), id_, std::exchange(data_, {}));
        } else if (text.starts_with("data: ")) {
            data_ += value("data: ");
        } else if (text.starts_with("id: ")) {
            id_ = value("id: ");
        } else if (text.starts_with("event: ")) {
            kind_ = value("event: ");
        }
    }

    std::string came_;
    std::string kind_;
    std::string id_;
    std::string data_;
};

} // namespace

class run_follower::implementation {
public:
    explicit implementation(const std::string& address) : client_(base_of(address)), thread_([this] { run(); }) {}
    ~implementation() {
        {
            const std::lock_guard lock(guard_);
            is_ending_ = true;
        }
        room_.notify_all();
        client_.stop();
        thread_.join();
    }

    std::vector<std::string> take() {
        std::vector<std::string> all;
        {
            const std::lock_guard lock(guard_);
            all.swap(lines_);
        }
        room_.notify_all();
        return all;
    }

    mutable std::mutex guard_;
    std::vector<std::string> lines_;
    std::string trouble_ = "no connection yet";
    std::uint64_t missed_ = 0;
    bool is_over_ = false;
    bool is_ending_ = false;

private:
    void run() {
        client_.set_connection_timeout(std::chrono::seconds(3));
        client_.set_read_timeout(std::chrono::seconds(15)); // something comes every five
        std::unique_lock lock(guard_);
        while (!is_ending_ && !is_over_) {
            lock.unlock();
            reader_.begin_anew();
            httplib::Headers headers{{"Accept", "text/event-stream"}};
            if (!last_.empty()) {
                headers.emplace("Last-Event-ID", last_);
            }
            const httplib::Result got = client_.Get(
                "/run", headers, [this](const httplib::Response& answer) { return answered(answer.status); },
                [this](const char* bytes, std::size_t size) {
                    return came({bytes, size});
                });
            lock.lock();
            if (!got && trouble_.empty()) {
                trouble_ = "the connection is broken";
            } else if (!got && last_.empty() && status_ == 0) {
                trouble_ = "nobody answers there";
            }
            room_.wait_for(lock, pause, [&] { return is_ending_; });
        }
    }

    bool answered(int status) {
        const std::lock_guard lock(guard_);
        status_ = status;
        trouble_ = status == 200   ? std::string()
                   : status == 404 ? std::string("the game shows no ledger")
                                   : "it answers with " + std::to_string(status);
        return status == 200;
    }

    bool came(std::string_view bytes) {
        std::unique_lock lock(guard_);
        room_.wait(lock, [&] { return lines_.size() < most_lines || is_ending_; });
        return !is_ending_ &&
               reader_.read(bytes, [this](const std::string& kind, const std::string& id, std::string&& data) {
                   last_ = id;
                   is_over_ = is_over_ || kind == "over";
                   if (kind == "missed" || kind == "dropped") {
                       const auto read = nlohmann::json::parse(data, nullptr, false);
                       missed_ += read.is_object() && read.contains("data")
                                      ? read["data"].value("events", std::uint64_t{0})
                                      : 0;
                   } else if (kind.empty() && !data.empty()) {
                       lines_.push_back(std::move(data));
                   }
               });
    }

    httplib::Client client_;
    message_reader reader_;
    std::string last_;
    int status_ = 0;
    std::condition_variable room_;
    std::thread thread_;
};

run_follower::run_follower(const std::string& address) : all_(std::make_unique<implementation>(address)) {}

run_follower::~run_follower() = default;

std::vector<std::string> run_follower::take() {
    return all_->take();
}

std::uint64_t run_follower::missed() const {
    const std::lock_guard lock(all_->guard_);
    return all_->missed_;
}

bool run_follower::is_over() const {
    const std::lock_guard lock(all_->guard_);
    return all_->is_over_ && all_->lines_.empty();
}

std::string run_follower::trouble() const {
    const std::lock_guard lock(all_->guard_);
    return all_->trouble_;
}

WIRED_COURIER_NAMESPACE_END
