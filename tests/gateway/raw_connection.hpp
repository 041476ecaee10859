// What clients send that have no HTTP library, or mean harm.
#pragma once

#include "support.hpp"

#include <arpa/inet.h>
#include <netinet/in.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace test {

/// A connection without an HTTP library.
class raw_connection {
public:
    explicit raw_connection(const courier::gateway& to, int receive_bytes = 0, in_addr_t from = INADDR_LOOPBACK)
        : socket_(::socket(AF_INET, SOCK_STREAM, 0)) {
        if (receive_bytes != 0) {
            ::setsockopt(socket_, SOL_SOCKET, SO_RCVBUF, &receive_bytes, sizeof receive_bytes);
        }
        sockaddr_in place{};
        place.sin_family = AF_INET;
        place.sin_addr.s_addr = htonl(from);
        static_cast<void>(::bind(socket_, reinterpret_cast<const sockaddr*>(&place), sizeof place));
        place.sin_port = htons(static_cast<std::uint16_t>(std::stoi(to.address().substr(to.address().rfind(':') + 1))));
        place.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        is_there_ = ::connect(socket_, reinterpret_cast<const sockaddr*>(&place), sizeof place) == 0;
    }
    raw_connection(const raw_connection&) = delete;
    raw_connection& operator=(const raw_connection&) = delete;
    ~raw_connection() { ::close(socket_); }

    raw_connection& send(std::string_view text) {
        static_cast<void>(::send(socket_, text.data(), text.size(), MSG_NOSIGNAL));
        return *this;
    }
    /// What comes until the other side closes, or nothing comes for a while.
    std::string read(std::chrono::milliseconds at_most = std::chrono::seconds(3)) {
        std::string all;
        for (std::array<char, 4096> bytes{};;) {
            pollfd one{socket_, POLLIN, 0};
            if (::poll(&one, 1, static_cast<int>(at_most.count())) <= 0) {
                return all + "(still open)";
            }
            const ssize_t got = ::recv(socket_, bytes.data(), bytes.size(), 0);
            if (got <= 0) {
                return all;
            }
            all.append(bytes.data(), static_cast<std::size_t>(got));
        }
    }
    [[nodiscard]] bool is_there() const noexcept { return is_there_; }

private:
    int socket_;
    bool is_there_ = false;
};

} // namespace test
