// A display outside of the game: it hears what is shown, and asks for what is accepted.
#include <courier/channel.hpp>
#include <courier/gateway/gateway.hpp>
#include <courier/state.hpp>
#include <courier/wiring/wiring.hpp>

#include <httplib.h>

#include <atomic>
#include <chrono>
#include <cstdio>
#include <string>
#include <thread>

struct Landed {
    int barge;
    int crates;
};
struct Ring {
    int strokes;
};

// The other program, which knows addresses and JSON only. Here it is a thread; in life it is a page in any language.
void display(const std::string& address, const std::string& token, std::atomic<bool>& listens) {
    httplib::Client by(address.substr(0, address.size() - 1));
    std::string came;
    by.Get("/events", [&](const char* bytes, std::size_t size) {
        came.append(bytes, size);
        listens = true;
        return came.find(R"("data":{"value":47})") == std::string::npos;
    });
    for (std::size_t at = came.find("\"subject\""); at != std::string::npos; at = came.find("\"subject\"", at + 1)) {
        const std::size_t data = came.find("\"data\"", at);
        std::printf("display: %s %s\n", came.substr(at + 10, came.find(',', at) - at - 10).c_str(),
                    came.substr(data + 7, came.find('}', data) - data - 6).c_str());
    }
    const httplib::Headers with{{"Authorization", "Bearer " + token}};
    const auto ask = [&](const httplib::Headers& headers, const char* body) {
        const auto got = by.Post("/actions/bell.ring", headers, body, "application/json");
        std::printf("display: %d %s\n", got ? got->status : 0, got && got->status == 200 ? got->body.c_str() : "");
    };
    ask(with, R"({"parameters":{"strokes":3}})");
    ask(with, R"({"parameters":{"strokes":"three"}})");
    ask({}, R"({"parameters":{"strokes":3}})");
}

int main() {
    courier::state<int> crates{"harbour.crates", 35};
    courier::channel<Landed> landed{"harbour.landed"};
    courier::subscriber in{"bell"};
    courier::wiring wires{"harbour"};
    wires.action<Ring>(in, "bell.ring",
                       [](const Ring& r) { std::printf("game: the bell rings %d times\n", r.strokes); });

    courier::gateway out{{.name = "harbour"}}; // any port that is free, on this machine only
    out.show(crates);
    out.show(landed);
    out.accept(wires, "bell.ring");
    out.take_in();

    std::atomic<bool> listens{false};
    std::atomic<bool> over{false};
    std::thread other([&, address = out.address(), token = out.token()] {
        display(address, token, listens);
        over = true;
    });
    bool has_landed = false;
    while (!over) { // frames
        if (listens && !has_landed) {
            has_landed = true;
            landed.publish({.barge = 2, .crates = 12});
            crates.add(12);
        }
        out.take_in(); // once a frame
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
    }
    other.join();
    const courier::gateway_report report = out.report();
    std::printf("refused: %llu that did not fit, %llu without the token\n",
                static_cast<unsigned long long>(report.of(courier::gateway_code::does_not_fit)),
                static_cast<unsigned long long>(report.of(courier::gateway_code::wrong_token)));
    return 0;
}
