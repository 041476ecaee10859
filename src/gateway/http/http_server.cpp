#include "gateway/http/http_server.hpp"

#include "gateway/http/connection_pool.hpp"

#include <courier/gateway/gateway.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <utility>

#include <sys/socket.h>
#include <unistd.h>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

struct told_refusal {
    std::string_view id;
    detail::http_refusal http;
};

/// In the order of `refusal`.
constexpr std::array<told_refusal, refusal_kinds> refusals{{
    {"courier.gateway.malformed", {400, "Bad Request"}},
    {"courier.gateway.too-slow", {408, "Request Timeout"}},
    {"courier.gateway.too-large", {413, "Content Too Large"}},
    {"courier.gateway.too-many-connections", {503, "Service Unavailable"}},
    {"courier.gateway.too-many-requests", {429, "Too Many Requests"}},
    {"courier.gateway.wrong-host", {421, "Misdirected Request"}},
    {"courier.gateway.foreign-origin", {403, "Forbidden"}},
    {"courier.gateway.wrong-token", {401, "Unauthorized"}},
    {"courier.gateway.unknown-path", {404, "Not Found"}},
    {"courier.gateway.wrong-method", {405, "Method Not Allowed"}},
    {"courier.gateway.wrong-type", {415, "Unsupported Media Type"}},
    {"courier.gateway.does-not-fit", {422, "Unprocessable Content"}},
    {"courier.gateway.not-answered", {504, "Gateway Timeout"}},
    {"courier.gateway.reader-dropped", {503, "Service Unavailable"}},
}};

} // namespace

std::string_view id_of(refusal why) noexcept {
    return refusals[static_cast<std::size_t>(why)].id;
}

namespace detail {

http_refusal as_http(refusal why) noexcept {
    return refusals[static_cast<std::size_t>(why)].http;
}

namespace {

constexpr std::size_t most_requests = 1000; ///< on one connection

thread_local guarded_stream* connection_here = nullptr;

refusal refusal_of(head_state state) noexcept {
    return state == head_state::too_slow    ? refusal::too_slow
           : state == head_state::too_large ? refusal::too_large
                                            : refusal::malformed;
}

} // namespace

http_server::http_server(const gateway_options& options, std::function<void(refusal)> refused)
    : options_(options), refused_(std::move(refused)) {
    put_back();
    new_task_queue = [this] { return new connection_pool(options_.most_connections); };
    set_payload_max_length(options_.largest_body);
    set_tcp_nodelay(true);
    set_keep_alive_max_count(most_requests); // which answers tell
    set_keep_alive_timeout(
        std::max<time_t>(1, std::chrono::duration_cast<std::chrono::seconds>(options_.idle_time).count()));
    set_socket_options([](socket_t socket) { // another program on the port is an error, not a partner
        const int yes = 1;
        ::setsockopt(socket, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
    });
}

int http_server::start() {
    const int port = options_.port == 0                           ? bind_to_any_port(options_.host)
                     : bind_to_port(options_.host, options_.port) ? options_.port
                                                                  : -1;
    if (port < 0) {
        throw gateway_error(
            fmt::format("cannot listen at {}:{}: the port is taken, or the address is none of this "
                        "machine's; choose another one, or port 0 for any [courier.gateway.cannot-listen]",
                        options_.host, options_.port));
    }
    thread_ = std::thread([this] {
        listen_after_bind();
        has_ended_.store(true, std::memory_order_release);
    });
    return port;
}

void http_server::end() noexcept {
    {
        const std::lock_guard lock(guard_);
        is_ending_.store(true, std::memory_order_release);
        for (const socket_t one : sockets_) {
            ::shutdown(one, SHUT_RDWR);
        }
    }
    if (thread_.joinable()) {
        while (!is_running() && !has_ended_.load(std::memory_order_acquire)) { // it gets there, or has failed
            std::this_thread::yield();
        }
        stop();
        thread_.join();
    }
}

guarded_stream& http_server::connection() noexcept {
    return *connection_here;
}

bool http_server::process_and_close_socket(socket_t socket) {
    guarded_stream stream(socket, options_);
    if (connection_pool::is_full()) {
        turn_away(stream, refusal::too_many_connections);
    } else {
        bool may_begin = false;
        {
            const std::lock_guard lock(guard_);
            may_begin = !is_ending() && sockets_.insert(socket).second;
        }
        if (may_begin) {
            connections_.fetch_add(1, std::memory_order_relaxed);
            connection_here = &stream;
            serve(stream);
            connection_here = nullptr;
            connections_.fetch_sub(1, std::memory_order_relaxed);
            const std::lock_guard lock(guard_);
            sockets_.erase(socket);
        }
    }
    ::shutdown(socket, SHUT_RDWR);
    ::close(socket);
    return true;
}

void http_server::serve(guarded_stream& stream) {
    for (std::size_t i = 1; i <= most_requests && !is_ending(); ++i) {
        const head_state state = stream.read_head();
        if (state == head_state::closed) {
            return;
        }
        if (state != head_state::whole) {
            turn_away(stream, refusal_of(state));
            return;
        }
        bool is_closed = false;
        if (!process_request(stream, i == most_requests, is_closed, nullptr) || is_closed || !stream.is_read()) {
            return;
        }
    }
}

void http_server::turn_away(guarded_stream& stream, refusal why) {
    refused_(why);
    const http_refusal told = as_http(why);
    stream.write_short(
        fmt::format("HTTP/1.1 {} {}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n", told.status, told.title));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
