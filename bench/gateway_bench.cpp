// What a gateway costs the game, and how many readers it serves. The game's thread has one core, everything else the
// other. Usage: gateway_bench [SECONDS]   for each part; prints a line for each figure.
#include "game.hpp"

#include <courier/channel.hpp>
#include <courier/gateway/gateway.hpp>

#include <atomic>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <thread>
#include <vector>

#include <arpa/inet.h>
#include <netinet/in.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace {

using bench::clock_type;
using bench::elsewhere;
using bench::Moved;
using bench::pin;
using namespace std::chrono_literals;

int connect_to(const courier::gateway& to) {
    const int socket = ::socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in place{};
    place.sin_family = AF_INET;
    place.sin_port = htons(static_cast<std::uint16_t>(std::stoi(to.address().substr(to.address().rfind(':') + 1))));
    place.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    if (::connect(socket, reinterpret_cast<const sockaddr*>(&place), sizeof place) != 0) {
        std::perror("connect");
        std::exit(1);
    }
    return socket;
}

std::string request(const courier::gateway& to, const std::string& path) {
    return "GET " + path + " HTTP/1.1\r\nHost: " + to.address().substr(7, to.address().size() - 8) + "\r\n\r\n";
}

/// Readers of the stream, all on one thread of the second core; counts what each gets.
class readers {
public:
    readers(const courier::gateway& to, std::size_t count) : counts_(count) {
        for (std::size_t i = 0; i < count; ++i) {
            sockets_.push_back({connect_to(to), POLLIN, 0});
            const std::string ask = request(to, "/events");
            static_cast<void>(::send(sockets_.back().fd, ask.data(), ask.size(), 0));
        }
        thread_ = std::thread([this] { run(); });
    }
    readers(const readers&) = delete;
    readers& operator=(const readers&) = delete;
    ~readers() {
        over_ = true;
        thread_.join();
        for (const pollfd& one : sockets_) {
            ::close(one.fd);
        }
    }
    [[nodiscard]] std::uint64_t least() const {
        std::uint64_t least = UINT64_MAX;
        for (const auto& one : counts_) {
            least = std::min(least, one.load(std::memory_order_relaxed));
        }
        return least;
    }

private:
    void run() {
        pin(0); // readers are other programs; the gateway has the second core for itself
        std::vector<char> bytes(1 << 18);
        while (!over_) {
            ::poll(sockets_.data(), sockets_.size(), 20);
            for (std::size_t i = 0; i < sockets_.size(); ++i) {
                if ((sockets_[i].revents & POLLIN) != 0) {
                    const ssize_t got = ::recv(sockets_[i].fd, bytes.data(), bytes.size(), MSG_DONTWAIT);
                    std::string_view text(bytes.data(), got > 0 ? static_cast<std::size_t>(got) : 0);
                    std::uint64_t found = 0;
                    for (std::size_t at = text.find("\"specversion\""); at != std::string_view::npos;
                         at = text.find("\"specversion\"", at + 1)) {
                        ++found;
                    }
                    counts_[i].fetch_add(found, std::memory_order_relaxed);
                }
            }
        }
    }

    std::vector<pollfd> sockets_;
    std::vector<std::atomic<std::uint64_t>> counts_;
    std::atomic<bool> over_{false};
    std::thread thread_;
};

void wait_for_readers(courier::gateway& out, std::size_t count) {
    for (int i = 0; i < 2000 && out.report().readers < count; ++i) {
        out.take_in();
        std::this_thread::sleep_for(1ms);
    }
}

void cost_of_a_publish(double seconds) {
    courier::channel<Moved> seen{"barges.seen"};
    const auto out =
        elsewhere([] { return std::make_unique<courier::gateway>(courier::gateway_options{.name = "bench"}); });
    out->show(seen);
    const auto four = elsewhere([&] { return std::make_unique<readers>(*out, 4); });
    wait_for_readers(*out, 4);
    const bench::measured_frames cost = bench::against_recording(
        seen, [&] { out->take_in(); }, {.publishes = 200, .pause = 2ms}, seconds);
    std::printf("a publish seen by 4 readers, against recording the same: %.2f (limit 1.2; %zu frames)\n", cost.median,
                cost.count);
}

void many_readers(double seconds) {
    constexpr std::size_t count = 64;
    constexpr int a_frame = 20;
    courier::channel<Moved> moved{"barges.moved"};
    const auto out = elsewhere([] {
        return std::make_unique<courier::gateway>(
            courier::gateway_options{.name = "bench", .max_connections = 256, .max_readers = 128});
    });
    out->show(moved);
    const readers all(*out, count);
    wait_for_readers(*out, count);
    std::uint64_t published = 0;
    const auto begun = clock_type::now();
    auto next = begun;
    while (clock_type::now() - begun < std::chrono::duration<double>(seconds)) {
        for (int i = 0; i < a_frame; ++i) {
            moved.publish(bench::moved(i));
            ++published;
        }
        out->take_in();
        std::this_thread::sleep_until(next += 20ms); // a thousand a second
    }
    for (int i = 0; i < 200 && all.least() < published; ++i) {
        std::this_thread::sleep_for(10ms);
    }
    std::printf("%zu readers at %.0f events a second each, the gateway on one core: the slowest got %llu of %llu; %llu "
                "left out, "
                "%llu dropped\n",
                count, static_cast<double>(published) / seconds, static_cast<unsigned long long>(all.least()),
                static_cast<unsigned long long>(published), static_cast<unsigned long long>(out->report().left_out),
                static_cast<unsigned long long>(out->report().of(courier::gateway_code::reader_dropped)));
}

/// Something that goes on outside of the game while it lives.
class trouble {
public:
    explicit trouble(const std::function<void(const std::atomic<bool>&)>& what)
        : thread_([this, what] { what(over_); }) {}
    trouble(const trouble&) = delete;
    trouble& operator=(const trouble&) = delete;
    ~trouble() {
        over_ = true;
        thread_.join();
    }

private:
    std::atomic<bool> over_{false};
    std::thread thread_;
};

void frame_times(double seconds) {
    courier::channel<Moved> moved{"barges.moved"};
    const auto out =
        elsewhere([] { return std::make_unique<courier::gateway>(courier::gateway_options{.name = "bench"}); });
    out->show(moved);
    const auto frames = [&](double how_long) {
        return bench::frame_time(
            moved, [&] { out->take_in(); }, {.publishes = 100, .work = 2000, .pause = 1ms}, how_long);
    };
    const auto stalled = [&](const std::atomic<bool>& over) {
        const int socket = connect_to(*out);
        const std::string ask = request(*out, "/events");
        static_cast<void>(::send(socket, ask.data(), ask.size(), 0));
        while (!over) {
            std::this_thread::sleep_for(5ms); // and never reads
        }
        ::close(socket);
    };
    const auto flood = [&](const std::atomic<bool>& over) {
        while (!over) {
            const int socket = connect_to(*out);
            std::string many;
            for (int i = 0; i < 50; ++i) {
                many += request(*out, "/about");
            }
            static_cast<void>(::send(socket, many.data(), many.size(), MSG_NOSIGNAL));
            char bytes[4096];
            while (!over && ::recv(socket, bytes, sizeof bytes, 0) > 0 && bytes[0] != '\0') {
                pollfd one{socket, POLLIN, 0};
                if (::poll(&one, 1, 5) == 0) {
                    break;
                }
            }
            ::close(socket);
        }
    };
    const auto loop = [&](const std::atomic<bool>& over) {
        while (!over) {
            const int socket = connect_to(*out);
            const std::string ask = request(*out, "/events");
            static_cast<void>(::send(socket, ask.data(), ask.size(), 0));
            char bytes[512];
            static_cast<void>(::recv(socket, bytes, sizeof bytes, 0));
            ::close(socket);
        }
    };
    const std::vector<std::pair<const char*, std::function<void(const std::atomic<bool>&)>>> all{
        {"a stalled reader", stalled}, {"a flood of requests", flood}, {"a reader in a loop of connecting", loop}};
    for (const auto& [name, what] : all) {
        std::vector<double> ratios;
        for (int round = 0; round < 9; ++round) {
            const double none = frames(seconds / 18);
            const auto now = elsewhere([&, own = &what] { return std::make_unique<trouble>(*own); });
            frames(0.05);
            ratios.push_back(frames(seconds / 18) / none);
        }
        std::printf("frame time with %s, against none: %.3f (limit 1.02)\n", name, bench::median(ratios));
    }
    const courier::gateway_report report = out->report();
    std::printf("  meanwhile: %llu requests answered, %llu refused as too many, %llu readers dropped\n",
                static_cast<unsigned long long>(report.requests),
                static_cast<unsigned long long>(report.of(courier::gateway_code::too_many_requests)),
                static_cast<unsigned long long>(report.of(courier::gateway_code::reader_dropped)));
}

} // namespace

int main(int argc, char** argv) {
    const double seconds = argc > 1 ? std::atof(argv[1]) : 5;
    pin(0);
    cost_of_a_publish(seconds);
    many_readers(seconds);
    frame_times(2 * seconds);
    return 0;
}
