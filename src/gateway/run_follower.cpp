// SPDX-License-Identifier: MIT
#include "data/broken_pipes.hpp"
#include <courier/gateway/run_follower.hpp>

#include <courier/gateway/gateway.hpp>

#include <courier/detail/base/nesting.hpp>

#include <nlohmann/json.hpp>

#include <httplib.h>

#include <atomic>
#include <charconv>
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
constexpr std::size_t longest_message = std::size_t{32} << 20; ///< and heads of an answer
constexpr std::size_t most_bytes = std::size_t{256} << 20;     ///< of lines that nobody has taken
constexpr auto pause = std::chrono::milliseconds(500);         ///< before a connection is made anew

/// HOST:PORT of "http://HOST:PORT/".
std::string authority_of(const std::string& address) {
    constexpr std::string_view scheme = "http://";
    const std::string rest = address.starts_with(scheme) ? address.substr(scheme.size()) : std::string();
    std::string authority = rest.substr(0, rest.find('/'));
    if (authority.empty()) {
        throw gateway_error(gateway_code::no_address, "not the address of a gateway", address,
                            "write it like http://127.0.0.1:8080/");
    }
    return authority;
}
/// Where the port begins, or npos; an IPv6 address has colons of its own.
std::size_t port_place(const std::string& authority) {
    const std::size_t colon = authority.rfind(':');
    return colon != std::string::npos && authority.find(']', colon) == std::string::npos ? colon : std::string::npos;
}
std::string host_of(const std::string& address) {
    const std::string authority = authority_of(address);
    std::string host = authority.substr(0, port_place(authority));
    if (host.starts_with('[') && host.ends_with(']')) {
        host = host.substr(1, host.size() - 2);
    }
    return host;
}
int port_of(const std::string& address) {
    const std::string authority = authority_of(address);
    const std::size_t colon = port_place(authority);
    if (colon == std::string::npos) {
        return 80;
    }
    int port = 0;
    const char* const end = authority.data() + authority.size();
    const auto read = std::from_chars(authority.data() + colon + 1, end, port);
    if (read.ec != std::errc() || read.ptr != end || port < 1 || port > 65535) {
        throw gateway_error(gateway_code::no_address, "the port is not from 1 to 65535", address,
                            "write it like http://127.0.0.1:8080/");
    }
    return port;
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
            if (data_.size() > longest_message) {
                return false;
            }
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

/// Ends an answer whose head has no end. The library itself has no bound for it.
class bounded_stream final : public httplib::Stream {
public:
    bounded_stream(httplib::Stream& of, const std::atomic<bool>& has_head) noexcept : of_(of), has_head_(has_head) {}

    [[nodiscard]] bool is_readable() const override { return of_.is_readable(); }
    [[nodiscard]] bool is_writable() const override { return of_.is_writable(); }
    ssize_t read(char* to, std::size_t size) override {
        if (!has_head_.load(std::memory_order_relaxed)) {
            head_ += size;
            if (head_ > longest_head) {
                return -1;
            }
        }
        return of_.read(to, size);
    }
    ssize_t write(const char* from, std::size_t size) override { return of_.write(from, size); }
    void get_remote_ip_and_port(std::string& ip, int& port) const override { of_.get_remote_ip_and_port(ip, port); }
    void get_local_ip_and_port(std::string& ip, int& port) const override { of_.get_local_ip_and_port(ip, port); }
    [[nodiscard]] socket_t socket() const override { return of_.socket(); }

private:
    static constexpr std::size_t longest_head = std::size_t{64} << 10;

    httplib::Stream& of_;
    const std::atomic<bool>& has_head_;
    std::size_t head_ = 0;
};

class bounded_client final : public httplib::ClientImpl {
public:
    bounded_client(const std::string& host, int port) : ClientImpl(host, port) {}
    std::atomic<bool> has_head{false}; ///< of the answer

private:
    bool process_socket(const Socket& socket, std::function<bool(httplib::Stream&)> callback) override {
        return httplib::detail::process_client_socket(socket.sock, read_timeout_sec_, read_timeout_usec_,
                                                      write_timeout_sec_, write_timeout_usec_,
                                                      [&](httplib::Stream& stream) {
                                                          bounded_stream bounded(stream, has_head);
                                                          return callback(bounded);
                                                      });
    }
};

} // namespace

class run_follower::implementation {
public:
    explicit implementation(const std::string& address)
        : client_(host_of(address), port_of(address)), thread_([this] { run(); }) {}
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
            waiting_ = 0;
        }
        room_.notify_all();
        return all;
    }

    mutable std::mutex guard_;
    std::vector<std::string> lines_;
    std::size_t waiting_ = 0; ///< bytes of them
    std::string trouble_ = "no connection yet";
    std::uint64_t missed_ = 0;
    bool is_over_ = false;
    bool is_ending_ = false;

private:
    void run() {
        detail::block_broken_pipes();
        client_.set_connection_timeout(std::chrono::seconds(3));
        client_.set_read_timeout(std::chrono::seconds(15)); // something comes every five
        std::unique_lock lock(guard_);
        while (!is_ending_ && !is_over_) {
            lock.unlock();
            reader_.begin_anew();
            client_.has_head = false;
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
        client_.has_head = true;
        const std::lock_guard lock(guard_);
        status_ = status;
        trouble_ = status == 200   ? std::string()
                   : status == 404 ? std::string("the game shows no ledger")
                                   : "it answers with " + std::to_string(status);
        return status == 200;
    }

    bool came(std::string_view bytes) {
        std::unique_lock lock(guard_);
        room_.wait(lock, [&] { return (lines_.size() < most_lines && waiting_ < most_bytes) || is_ending_; });
        if (is_ending_) {
            return false;
        }
        const bool is_stream =
            reader_.read(bytes, [this](const std::string& kind, const std::string& id, std::string&& data) {
                last_ = id;
                is_over_ = is_over_ || kind == "over";
                if (kind == "missed" || kind == "dropped") {
                    missed_ += events_in(data);
                } else if (kind.empty() && !data.empty()) {
                    waiting_ += data.size();
                    lines_.push_back(std::move(data));
                }
            });
        if (!is_stream) {
            trouble_ = "that is not a run: a message has more than 32 MiB";
        }
        return is_stream;
    }

    /// How many were lost; none where that is not said in the right way.
    static std::uint64_t events_in(const std::string& note) {
        if (detail::is_too_deep(note, detail::text_format::as_json)) {
            return 0;
        }
        const auto read = nlohmann::json::parse(note, nullptr, false);
        const auto at = nlohmann::json::json_pointer("/data/events");
        return read.contains(at) && read.at(at).is_number_unsigned() ? read.at(at).get<std::uint64_t>() : 0;
    }

    bounded_client client_;
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

bool run_follower::over() const {
    const std::lock_guard lock(all_->guard_);
    return all_->is_over_ && all_->lines_.empty();
}

std::string run_follower::trouble() const {
    const std::lock_guard lock(all_->guard_);
    return all_->trouble_;
}

WIRED_COURIER_NAMESPACE_END
