// An inbox takes payloads from any thread; they are delivered on the thread of its owner.
#include <courier/channel.hpp>
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>
#include <courier/outbox.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <thread>
#include <vector>

struct ChartLoaded {
    int loader;
    int number;
    std::vector<char> sheet; // moved all the way, never copied
};

int main() {
    courier::channel<ChartLoaded> loaded{"charts.loaded"};
    courier::outbox later{"frame"};
    courier::inbox arrivals{later, "arrivals", {.limit = 1000}};
    courier::subscriber in{"chart room"};
    const std::thread::id owner = std::this_thread::get_id();
    int next[2] = {0, 0};
    std::size_t bytes = 0;
    bool fine = true;
    in.subscribe(loaded, [&](const ChartLoaded& c) {
        fine = fine && std::this_thread::get_id() == owner && c.number == next[c.loader]++;
        bytes += c.sheet.size();
    });

    std::vector<std::thread> loaders;
    for (int loader = 0; loader < 2; ++loader) {
        // An inlet may be copied to any thread, and may outlive the inbox.
        loaders.emplace_back([loader, out = courier::inlet<ChartLoaded>{arrivals, loaded}] {
            for (int i = 0; i < 100; ++i) {
                out.send({.loader = loader, .number = i, .sheet = std::vector<char>(64)});
            }
        });
    }
    int arrived = 0;
    while (arrived < 200) { // the main loop
        arrived += static_cast<int>(arrivals.take_in());
        later.deliver();
    }
    for (std::thread& l : loaders) {
        l.join();
    }
    std::printf("%d charts, %zu bytes\n", arrived, bytes);
    std::printf("each loader's in order, on the main thread: %s\n", fine ? "yes" : "no");
}
