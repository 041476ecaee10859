// SPDX-License-Identifier: MIT
#include "gateway/http/http_server.hpp"

#include "gateway/http/connection_pool.hpp"

#include <courier/detail/base/stable_id.hpp>
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

/// In the order of `gateway_code`.
constexpr std::array<detail::http_refusal, gateway_refusals> refusals{{
    {400, "Bad Request"},
    {408, "Request Timeout"},
    {413, "Content Too Large"},
    {503, "Service Unavailable"},
    {429, "Too Many Requests"},
    {421, "Misdirected Request"},
    {403, "Forbidden"},
    {401, "Unauthorized"},
    {404, "Not Found"},
    {405, "Method Not Allowed"},
    {415, "Unsupported Media Type"},
    {422, "Unprocessable Content"},
    {504, "Gateway Timeout"},
    {503, "Service Unavailable"},
}};

} // namespace

std::string_view id_of(gateway_code code) noexcept {
    return detail::stable_id(code);
}

namespace detail {

http_refusal as_http(gateway_code why) noexcept {
    return refusals[static_cast<std::size_t>(why)];
}

namespace {

constexpr std::size_t most_requests = 1000; ///< on one connection

thread_local guarded_stream* connection_here = nullptr;

gateway_code code_of(head_state state) noexcept {
    return state == head_state::too_slow    ? gateway_code::too_slow
           : state == head_state::too_large ? gateway_code::too_large
                                            : gateway_code::malformed;
}

} // namespace

http_server::http_server(const gateway_options& options, std::function<void(gateway_code)> refused)
    : options_(options), refused_(std::move(refused)) {
    put_back();
    new_task_queue = [this] { return new connection_pool(options_.max_connections); };
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
            gateway_code::cannot_listen, "cannot listen: the port is taken, or the address is not this machine's",
            fmt::format("{}:{}", options_.host, options_.port), "choose another port, or port 0 for any");
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
        turn_away(stream, gateway_code::too_many_connections);
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
            turn_away(stream, code_of(state));
            return;
        }
        bool is_closed = false;
        if (!process_request(stream, i == most_requests, is_closed, nullptr) || is_closed || !stream.is_read()) {
            return;
        }
    }
}

void http_server::turn_away(guarded_stream& stream, gateway_code why) {
    refused_(why);
    const http_refusal told = as_http(why);
    stream.write_short(
        fmt::format("HTTP/1.1 {} {}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n", told.status, told.title));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
