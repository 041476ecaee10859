// A connection whose requests have bounds in size and time.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/gateway/gateway_options.hpp>

#include <httplib.h>

#include <chrono>
#include <cstddef>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// How reading the head of a request ended.
enum class head_state { whole, closed, too_slow, too_large, malformed };

/// What the HTTP library reads from and writes to. It is given a request's head only
/// when that is there as a whole, within `request_time`, and in order; what it would
/// match with expressions that run out of stack on long lines is taken out.
class guarded_stream final : public httplib::Stream {
public:
    guarded_stream(socket_t socket, const gateway_options& options) noexcept : socket_(socket), options_(options) {}

    /// Waits for the next request.
    [[nodiscard]] head_state read_head();
    /// Whether all of the request's body has been read, so that another may follow.
    [[nodiscard]] bool is_read() const noexcept { return body_left_ == 0; }
    /// From now on a write may wait for `stall_time` each time it gets on, without an end.
    void is_reader() noexcept { is_reader_ = true; }
    /// A write has timed out.
    [[nodiscard]] bool has_stalled() const noexcept { return has_stalled_; }
    /// Writes an answer without the library, as far as it goes without waiting.
    void write_short(std::string_view answer) noexcept;

    [[nodiscard]] bool is_readable() const override;
    [[nodiscard]] bool is_writable() const override;
    ssize_t read(char* to, std::size_t size) override;
    ssize_t write(const char* from, std::size_t size) override;
    void get_remote_ip_and_port(std::string& ip, int& port) const override;
    void get_local_ip_and_port(std::string& ip, int& port) const override;
    [[nodiscard]] socket_t socket() const override { return socket_; }

private:
    using moment = std::chrono::steady_clock::time_point;

    [[nodiscard]] bool wait(short events, moment until) const noexcept;
    [[nodiscard]] head_state take_head(std::size_t size);

    socket_t socket_;
    const gateway_options& options_;
    std::string came_;          ///< what was read ahead
    std::string head_;          ///< as the library gets it
    std::size_t given_ = 0;     ///< of `head_`
    std::size_t body_left_ = 0; ///< bytes of the request's body that nobody has read
    moment until_;              ///< the request has to be there, and answered
    bool is_reader_ = false;
    bool has_stalled_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
