// The HTTP library's server with bounds of its own.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/broken_pipes.hpp"
#include "gateway/http/guarded_stream.hpp"

#include <courier/config.hpp>
#include <courier/gateway/gateway_fault.hpp>
#include <courier/gateway/gateway_options.hpp>

#include <httplib.h>

#include <atomic>
#include <cstddef>
#include <functional>
#include <mutex>
#include <set>
#include <string>
#include <string_view>
#include <thread>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A gateway_code as HTTP has it.
struct http_refusal {
    int status;
    std::string_view title;
};
[[nodiscard]] http_refusal as_http(gateway_code why) noexcept;

/// Listens from `start()` until `end()`, with a thread for each connection.
class http_server final : private pipe_action_kept, public httplib::Server {
public:
    /// `refused` is told of each refusal that the server makes itself, from any thread.
    http_server(const gateway_options& options, std::function<void(gateway_code)> refused);
    http_server(const http_server&) = delete;
    http_server& operator=(const http_server&) = delete;
    ~http_server() override { end(); }

    /// The port; throws `gateway_error`.
    int start();
    /// Breaks off what goes on.
    void end() noexcept;

    [[nodiscard]] bool is_ending() const noexcept { return is_ending_.load(std::memory_order_acquire); }
    [[nodiscard]] std::size_t connections() const noexcept { return connections_.load(std::memory_order_relaxed); }
    /// The connection whose request this thread answers.
    [[nodiscard]] static guarded_stream& connection() noexcept;

private:
    bool process_and_close_socket(socket_t socket) override;
    void serve(guarded_stream& stream);
    void turn_away(guarded_stream& stream, gateway_code why);

    const gateway_options& options_;
    const std::function<void(gateway_code)> refused_;
    std::atomic<bool> is_ending_{false};
    std::atomic<bool> has_ended_{false}; ///< the thread
    std::atomic<std::size_t> connections_{0};
    std::mutex guard_;
    std::set<socket_t> sockets_;
    std::thread thread_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
