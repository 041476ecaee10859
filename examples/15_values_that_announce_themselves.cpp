// A state announces its changes; a formula follows from states; a refresher is kept current.
#include <courier/formula.hpp>
#include <courier/outbox.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>

class Hold {
public:
    const courier::state<int>& crates() const { return crates_; } // others may read and subscribe only
    const courier::formula<int>& room() const { return room_; }
    void load(int crates) { crates_.set(crates_.glance() + crates); }
    void lighten(int crates) {
        courier::together([&] { // announced once, and no formula sees one without the other
            crates_.set(crates_.glance() - crates);
            size_.set(size_.glance() + 2);
        });
    }

private:
    courier::state<int> crates_{"hold.crates", 12};
    courier::state<int> size_{"hold.size", 20};
    courier::formula<int> room_{"hold.room", [this] { return size_.read() - crates_.read(); }};
};

int main() {
    Hold hold;
    courier::outbox frame{"end of frame"};
    courier::subscriber in{"slate"};
    in.subscribe(hold.crates(),
                 [](const courier::change<int>& c) { std::printf("crates: %d, was %d\n", c.after(), c.before()); },
                 {.retained = true}); // the current value first
    in.keep_current([&] { std::printf("at once: room for %d\n", hold.room().read()); });
    in.keep_current(frame, [&] { // once per round, however much changes
        const int in_hold = hold.crates().read();
        std::printf("end of frame: %d in, room for %d\n", in_hold, hold.room().read());
    });

    std::puts("-- loading");
    hold.load(3);
    hold.load(0); // the same: nothing is announced
    hold.lighten(5);
    std::puts("-- end of frame");
    frame.deliver();

    for (const courier::refresher_report& refresher : courier::list_refreshers()) { // nothing is magic
        std::printf("run %d times, last because of %s; reads", static_cast<int>(refresher.runs),
                    refresher.because.c_str());
        for (const std::string& source : refresher.depends_on) {
            std::printf(" [%s]", source.c_str());
        }
        std::puts("");
    }
}
