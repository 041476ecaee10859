#include "local_broker.hpp"

#include <array>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <stdexcept>
#include <string>
#include <thread>

#include <arpa/inet.h>
#include <fcntl.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

namespace reef {

namespace {

sockaddr_in loopback(int port) {
    sockaddr_in to{};
    to.sin_family = AF_INET;
    to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    to.sin_port = htons(static_cast<std::uint16_t>(port));
    return to;
}

int free_port() {
    const int socket = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    sockaddr_in at = loopback(0);
    socklen_t size = sizeof at;
    const bool is_bound = ::bind(socket, reinterpret_cast<const sockaddr*>(&at), sizeof at) == 0 &&
                          ::getsockname(socket, reinterpret_cast<sockaddr*>(&at), &size) == 0;
    ::close(socket);
    return is_bound ? ntohs(at.sin_port) : 0;
}

// As examples/broker/mosquitto.conf has it, for one machine.
constexpr std::string_view usual = R"(listener %PORT% 127.0.0.1
allow_anonymous true
persistence true
persistence_location %FOLDER%/
autosave_interval 1
max_inflight_messages 0
max_queued_messages 100000
set_tcp_nodelay true
log_dest none
)";

std::string mosquitto() {
    for (const char* const place : {"/usr/sbin/mosquitto", "/usr/local/sbin/mosquitto", "/usr/bin/mosquitto"}) {
        if (::access(place, X_OK) == 0) {
            return place;
        }
    }
    throw std::runtime_error("there is no broker on this machine; install Debian's package mosquitto");
}

bool wait_for_end(pid_t process, std::chrono::milliseconds longest) {
    const auto until = std::chrono::steady_clock::now() + longest;
    while (::waitpid(process, nullptr, WNOHANG) == 0) {
        if (std::chrono::steady_clock::now() > until) {
            return false;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    return true;
}

} // namespace

local_broker::local_broker(std::string_view told) : port_(free_port()) {
    std::string pattern = (std::filesystem::temp_directory_path() / "gannet-broker-XXXXXX").string();
    if (::mkdtemp(pattern.data()) == nullptr) {
        throw std::runtime_error("no folder can be made for a broker: " + std::string(std::strerror(errno)));
    }
    folder_ = pattern;
    try {
        write_config(told.empty() ? usual : told);
        start();
    } catch (...) {
        std::error_code ignored;
        std::filesystem::remove_all(folder_, ignored);
        throw;
    }
}

void local_broker::write_config(std::string_view told) const {
    std::string text(told);
    const auto replace = [&](std::string_view what, const std::string& by) {
        for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += by.size()) {
            text.replace(at, what.size(), by);
        }
    };
    replace("%PORT%", std::to_string(port_));
    replace("%FOLDER%", folder_.string());
    std::ofstream(folder_ / "broker.conf") << text << (::geteuid() == 0 ? "user root\n" : "");
}

void local_broker::start() {
    const std::string program = mosquitto();
    const std::string config = folder_ / "broker.conf";
    const std::array<const char*, 4> arguments{program.c_str(), "-c", config.c_str(), nullptr};
    process_ = ::fork();
    if (process_ == 0) {
        ::prctl(PR_SET_PDEATHSIG, SIGTERM); // it does not outlive this process, however that ends
        const int nowhere = ::open("/dev/null", O_WRONLY | O_CLOEXEC); // NOLINT: there is no other way to say this
        ::dup2(nowhere, STDOUT_FILENO);
        ::dup2(nowhere, STDERR_FILENO);
        ::execv(program.c_str(), const_cast<char**>(arguments.data()));
        ::_exit(127);
    }
    if (process_ < 0) {
        throw std::runtime_error(program + " cannot be started: " + std::strerror(errno));
    }
    const std::string does_not_come_up = program + " does not come up; try '" + program + " -v -c FILE'";
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(5);
    while (!listens()) {
        if (std::chrono::steady_clock::now() > until || ::waitpid(process_, nullptr, WNOHANG) != 0) {
            kill();
            throw std::runtime_error(does_not_come_up);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
}

bool local_broker::listens() const {
    const int socket = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    const sockaddr_in to = loopback(port_);
    const bool does = ::connect(socket, reinterpret_cast<const sockaddr*>(&to), sizeof to) == 0;
    ::close(socket);
    return does;
}

void local_broker::end() {
    if (process_ > 0) {
        ::kill(process_, SIGTERM);
        if (!wait_for_end(process_, std::chrono::seconds(3))) {
            kill();
        }
        process_ = -1;
    }
}

void local_broker::kill() {
    if (process_ > 0) {
        ::kill(process_, SIGKILL);
        wait_for_end(process_, std::chrono::seconds(1));
        process_ = -1;
    }
}

local_broker::~local_broker() {
    end();
    std::error_code ignored;
    std::filesystem::remove_all(folder_, ignored);
}

} // namespace reef
