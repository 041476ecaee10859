// SPDX-License-Identifier: MIT
#include "gateway/http/guarded_stream.hpp"

#include "data/trimmed.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>

#include <netdb.h>
#include <poll.h>
#include <sys/socket.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t longest_head = std::size_t{16} << 10;
constexpr std::size_t longest_path = 2048; ///< with the method and the version
constexpr std::size_t most_lines = 100;

bool same_name(std::string_view a, std::string_view b) noexcept {
    return a.size() == b.size() && std::equal(a.begin(), a.end(), b.begin(), [](char x, char y) {
               return std::tolower(static_cast<unsigned char>(x)) == y;
           });
}

bool has_control(std::string_view line) noexcept {
    return std::any_of(line.begin(), line.end(),
                       [](char c) { return (static_cast<unsigned char>(c) < 0x20 && c != '\t') || c == 0x7f; });
}

/// "POST /path HTTP/1.1", with nothing odd in it (RFC 9112, 3).
bool is_request_line(std::string_view line) noexcept {
    const std::size_t first = line.find(' ');
    const std::size_t second = first == std::string_view::npos ? first : line.find(' ', first + 1);
    if (second == std::string_view::npos || first == 0 || line.find(' ', second + 1) != std::string_view::npos) {
        return false;
    }
    const std::string_view version = line.substr(second + 1);
    const std::string_view method = line.substr(0, first);
    return line[first + 1] == '/' && (version == "HTTP/1.1" || version == "HTTP/1.0") &&
           std::all_of(method.begin(), method.end(), [](char c) { return c >= 'A' && c <= 'Z'; });
}

/// Looks through the lines of a head.
struct head_reader {
    std::string head;
    std::size_t body = 0;
    std::size_t lines = 0;
    bool has_length = false;
    bool has_host = false;

    head_state line(std::string_view text) {
        if (has_control(text) || ++lines > most_lines) {
            return lines > most_lines ? head_state::too_large : head_state::malformed;
        }
        if (lines == 1) {
            const bool is_long = text.size() > longest_path;
            return is_long ? head_state::too_large : is_request_line(text) ? add(text) : head_state::malformed;
        }
        return header(text);
    }

private:
    head_state add(std::string_view text) {
        head += text;
        head += "\r\n";
        return head_state::whole;
    }

    head_state header(std::string_view text) {
        const std::size_t colon = text.find(':');
        if (colon == std::string_view::npos || colon == 0 || text.find_first_of(" \t") < colon) {
            return head_state::malformed;
        }
        const std::string_view name = text.substr(0, colon);
        const std::string_view value = trimmed(text.substr(colon + 1));
        if (same_name(name, "content-length")) {
            const auto [end, error] = std::from_chars(value.data(), value.data() + value.size(), body);
            if (has_length || error != std::errc{} || end != value.data() + value.size()) {
                return head_state::malformed;
            }
            has_length = true;
        } else if (same_name(name, "host")) {
            if (has_host) {
                return head_state::malformed;
            }
            has_host = true;
        } else if (same_name(name, "transfer-encoding") || same_name(name, "upgrade")) {
            return head_state::malformed; // what comes has a length
        } else if (same_name(name, "range") || same_name(name, "expect")) {
            return head_state::whole; // all of it is sent, and at once
        }
        return add(text);
    }
};

} // namespace

bool guarded_stream::wait(short events, moment until) const noexcept {
    const auto left = std::chrono::ceil<std::chrono::milliseconds>(until - std::chrono::steady_clock::now()).count();
    pollfd one{socket_, events, 0};
    return ::poll(&one, 1, static_cast<int>(std::clamp<long long>(left, 0, 60'000))) > 0;
}

head_state guarded_stream::read_head() {
    moment until = std::chrono::steady_clock::now() + options_.idle_time;
    bool has_begun = !came_.empty();
    for (std::size_t looked_at = 0;;) {
        if (has_begun && until_ != until) {
            until = until_ = std::chrono::steady_clock::now() + options_.request_time;
        }
        const std::size_t end = came_.find("\r\n\r\n", looked_at < 3 ? 0 : looked_at - 3);
        if (end != std::string::npos) {
            return end > longest_head ? head_state::too_large : take_head(end);
        }
        if (came_.size() > longest_head) {
            return head_state::too_large;
        }
        looked_at = came_.size();
        std::array<char, 4096> bytes;
        if (!wait(POLLIN, until)) {
            return has_begun ? head_state::too_slow : head_state::closed;
        }
        const ssize_t got = ::recv(socket_, bytes.data(), bytes.size(), 0);
        if (got <= 0) {
            return came_.empty() ? head_state::closed : head_state::malformed;
        }
        came_.append(bytes.data(), static_cast<std::size_t>(got));
        if (!has_begun) {
            has_begun = true;
            until_ = {};
        }
    }
}

head_state guarded_stream::take_head(std::size_t size) {
    head_reader by;
    for (std::size_t at = 0; at < size;) {
        const std::size_t end = std::min(came_.find("\r\n", at), size);
        if (const head_state state = by.line(std::string_view(came_).substr(at, end - at));
            state != head_state::whole) {
            return state;
        }
        at = end + 2;
    }
    if (by.lines == 0) {
        return head_state::malformed;
    }
    head_ = std::move(by.head) + "\r\n";
    given_ = 0;
    body_left_ = by.body;
    came_.erase(0, size + 4);
    return head_state::whole;
}

bool guarded_stream::is_readable() const {
    return given_ < head_.size() || !came_.empty() || wait(POLLIN, until_);
}

bool guarded_stream::is_writable() const {
    return wait(POLLOUT, std::chrono::steady_clock::now() + options_.stall_time);
}

// Never more than the request has, so that the next one is read by `read_head()`.
ssize_t guarded_stream::read(char* to, std::size_t size) {
    if (given_ < head_.size()) {
        const std::size_t some = std::min(size, head_.size() - given_);
        head_.copy(to, some, given_);
        given_ += some;
        return static_cast<ssize_t>(some);
    }
    size = std::min(size, body_left_);
    if (size == 0) {
        return 0;
    }
    ssize_t got = 0;
    if (!came_.empty()) {
        got = static_cast<ssize_t>(came_.copy(to, size));
        came_.erase(0, static_cast<std::size_t>(got));
    } else {
        got = wait(POLLIN, until_) ? ::recv(socket_, to, size, 0) : -1;
    }
    body_left_ -= got > 0 ? static_cast<std::size_t>(got) : 0;
    return got;
}

ssize_t guarded_stream::write(const char* from, std::size_t size) {
    const moment now = std::chrono::steady_clock::now();
    // An answer has as long again as its request had; a reader, as long as it gets on.
    const moment until =
        is_reader_ ? now + options_.stall_time : std::min(now + options_.stall_time, until_ + options_.request_time);
    if (!wait(POLLOUT, until)) {
        has_stalled_ = true;
        return -1;
    }
    return ::send(socket_, from, size, MSG_NOSIGNAL | MSG_DONTWAIT);
}

void guarded_stream::write_short(std::string_view answer) noexcept {
    static_cast<void>(::send(socket_, answer.data(), answer.size(), MSG_NOSIGNAL | MSG_DONTWAIT));
}

void guarded_stream::get_remote_ip_and_port(std::string& ip, int& port) const {
    sockaddr_storage there{};
    socklen_t size = sizeof there;
    std::array<char, NI_MAXHOST> text{};
    const bool is_known = ::getpeername(socket_, reinterpret_cast<sockaddr*>(&there), &size) == 0 &&
                          ::getnameinfo(reinterpret_cast<const sockaddr*>(&there), size, text.data(), text.size(),
                                        nullptr, 0, NI_NUMERICHOST) == 0;
    ip = is_known ? text.data() : "";
    port = 0;
}

void guarded_stream::get_local_ip_and_port(std::string& ip, int& port) const {
    ip.clear();
    port = 0;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
