// A broker of which the test says byte by byte what it says.
#pragma once

#include "support.hpp"

#include <arpa/inet.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace test {

class bare_broker {
public:
    bare_broker() : listener_(::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0)) {
        sockaddr_in here{};
        here.sin_family = AF_INET; // at any address of this machine
        socklen_t size = sizeof here;
        REQUIRE(::bind(listener_, reinterpret_cast<const sockaddr*>(&here), sizeof here) == 0);
        REQUIRE(::listen(listener_, 4) == 0);
        REQUIRE(::getsockname(listener_, reinterpret_cast<sockaddr*>(&here), &size) == 0);
        port_ = ntohs(here.sin_port);
    }
    bare_broker(const bare_broker&) = delete;
    bare_broker& operator=(const bare_broker&) = delete;
    ~bare_broker() {
        hang_up();
        ::close(listener_);
    }
    [[nodiscard]] int port() const noexcept { return port_; }

    /// The next client; the one before is hung up on.
    void accept() {
        hang_up();
        REQUIRE(has_something(listener_));
        client_ = ::accept(listener_, nullptr, nullptr);
    }
    /// What the client sends next; empty when that is nothing for five seconds.
    [[nodiscard]] std::string read() const {
        std::array<char, 4096> some{};
        const ssize_t got = has_something(client_) ? ::recv(client_, some.data(), some.size(), 0) : 0;
        return {some.data(), got > 0 ? static_cast<std::size_t>(got) : 0};
    }
    void say(std::string_view what) const {
        REQUIRE(::send(client_, what.data(), what.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(what.size()));
    }

private:
    static bool has_something(int socket) {
        pollfd on{socket, POLLIN, 0};
        return ::poll(&on, 1, 5000) == 1;
    }
    void hang_up() noexcept {
        if (client_ >= 0) {
            ::close(client_);
        }
        client_ = -1;
    }

    int listener_;
    int port_ = 0;
    int client_ = -1;
};

} // namespace test
