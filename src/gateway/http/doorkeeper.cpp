// SPDX-License-Identifier: MIT
#include "gateway/http/doorkeeper.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <random>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr double burst = 4; ///< seconds' worth of requests that may come at once

std::string in_small_letters(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); });
    return text;
}

/// Takes as long whatever differs.
bool is_equal(std::string_view a, std::string_view b) noexcept {
    unsigned differs = a.size() == b.size() ? 0 : 1;
    for (std::size_t i = 0; i < a.size(); ++i) {
        differs |= static_cast<unsigned char>(a[i]) ^ static_cast<unsigned char>(b.empty() ? '\0' : b[i % b.size()]);
    }
    return differs == 0;
}

} // namespace

std::string make_token() {
    std::random_device chance;
    return fmt::format("{:08x}{:08x}{:08x}{:08x}", chance(), chance(), chance(), chance());
}

doorkeeper::doorkeeper(const gateway_options& options, std::string token)
    : options_(options), token_(std::move(token)), origins_(options.origins.begin(), options.origins.end()),
      with_token_(options.requests_per_second), without_token_(options.requests_per_second) {}

allowance::allowance(double a_second) : a_second_(a_second), left_(burst * a_second) {}

void doorkeeper::listens_at(int port) {
    const bool is_ipv6 = options_.host.find(':') != std::string::npos;
    for (const std::string& name : {is_ipv6 ? "[" + options_.host + "]" : options_.host, std::string("localhost")}) {
        hosts_.insert(in_small_letters(fmt::format("{}:{}", name, port)));
        if (port == 80) {
            hosts_.insert(in_small_letters(name));
        }
    }
    for (const std::string& name : options_.hosts) {
        hosts_.insert(in_small_letters(name));
    }
}

std::optional<gateway_code> doorkeeper::objection(const httplib::Request& request) {
    if (!hosts_.contains(in_small_letters(request.get_header_value("Host")))) {
        return gateway_code::wrong_host; // also what a foreign page is told that has taken over a name
    }
    if (is_foreign(request)) {
        return gateway_code::foreign_origin;
    }
    // Not before this, so that no foreign page uses up what the game's own displays may ask; and who
    // has the token has an allowance that nobody else can use up.
    if (!(has_token(request) ? with_token_ : without_token_).take()) {
        return gateway_code::too_many_requests;
    }
    if (request.method == "GET" || request.method == "HEAD" || request.method == "OPTIONS") {
        const bool tells_files = request.path == "/wiring" && request.method != "OPTIONS"; // comments and all
        return tells_files && !has_token(request) ? std::optional(gateway_code::wrong_token) : std::nullopt;
    }
    if (request.method != "POST") {
        return gateway_code::wrong_method;
    }
    if (!has_token(request)) {
        return gateway_code::wrong_token;
    }
    const std::string type = in_small_letters(request.get_header_value("Content-Type"));
    if (type != "application/json" && !type.starts_with("application/json;")) {
        return gateway_code::wrong_type;
    }
    return std::nullopt;
}

std::string doorkeeper::allowed_origin(const httplib::Request& request) const {
    const std::string origin = request.get_header_value("Origin");
    return origins_.contains(origin) ? origin : std::string();
}

bool allowance::take() {
    const auto now = std::chrono::steady_clock::now();
    const std::lock_guard lock(guard_);
    const double passed = std::chrono::duration<double>(now - std::exchange(since_, now)).count();
    left_ = std::min(burst * a_second_, left_ + passed * a_second_);
    if (left_ < 1) {
        return false;
    }
    left_ -= 1;
    return true;
}

// What a browser says of the page that asks. Other programs say nothing.
bool doorkeeper::is_foreign(const httplib::Request& request) const {
    if (request.has_header("Origin")) {
        const std::string origin = in_small_letters(request.get_header_value("Origin"));
        return !origins_.contains(request.get_header_value("Origin")) &&
               !(origin.starts_with("http://") && hosts_.contains(origin.substr(7)));
    }
    return request.get_header_value("Sec-Fetch-Site") == "cross-site" &&
           request.get_header_value("Sec-Fetch-Mode") != "navigate";
}

bool doorkeeper::has_token(const httplib::Request& request) const {
    constexpr std::string_view scheme = "Bearer ";
    const std::string given = request.get_header_value("Authorization");
    return given.starts_with(scheme) && is_equal(std::string_view(given).substr(scheme.size()), token_);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
