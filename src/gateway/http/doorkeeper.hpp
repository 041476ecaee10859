// Who may ask what of a gateway.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/gateway/gateway_fault.hpp>
#include <courier/gateway/gateway_options.hpp>

#include <httplib.h>

#include <chrono>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A token bucket: each request takes one, and `a_second` of them come back a second. For any thread.
class allowance {
public:
    explicit allowance(double a_second);
    [[nodiscard]] bool take();

private:
    const double a_second_;
    std::mutex guard_; ///< of the next
    double left_;
    std::chrono::steady_clock::time_point since_ = std::chrono::steady_clock::now();
};

class doorkeeper {
public:
    doorkeeper(const gateway_options& options, std::string token);

    /// The names that it may be called by, once the port is known.
    void listens_at(int port);

    /// Why a request is not let in; it is no longer looked at then, nor is its body.
    [[nodiscard]] std::optional<gateway_code> objection(const httplib::Request& request);
    /// An origin other than its own that may read the answer; else empty.
    [[nodiscard]] std::string allowed_origin(const httplib::Request& request) const;

    [[nodiscard]] const std::string& token() const noexcept { return token_; }

private:
    [[nodiscard]] bool is_foreign(const httplib::Request& request) const;
    [[nodiscard]] bool has_token(const httplib::Request& request) const;

    const gateway_options& options_;
    const std::string token_;
    std::set<std::string> hosts_;   ///< in small letters, with the port
    std::set<std::string> origins_; ///< besides those of the hosts
    allowance with_token_;
    allowance without_token_;
};

/// A token that nobody guesses: 128 bits in hexadecimal.
[[nodiscard]] std::string make_token();

} // namespace detail
WIRED_COURIER_NAMESPACE_END
