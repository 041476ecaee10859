// Questions that take a while: asked in a sequence, answered frames later or not in time, worked on by another thread.
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>
#include <courier/outbox.hpp>
#include <courier/request.hpp>
#include <courier/sequence.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>
#include <courier/wait.hpp>

#include <chrono>
#include <cstdio>
#include <map>
#include <thread>
#include <utility>
#include <vector>

using namespace std::chrono_literals;

struct CourseAsked {
    using answer = std::vector<int>; // buoys on the way
    int to;                          // a berth
};
struct CourseFound {
    int to;
    std::vector<int> buoys;
};

// Finds courses on a thread of its own. Replies stay on the game's.
class pilot {
public:
    pilot(courier::channel<courier::request<CourseAsked>>& courses, courier::outbox& later)
        : arrivals_(later, "pilot") {
        in_.subscribe(courses, [this](const courier::request<CourseAsked>& r) {
            open_[r.question().to] = r.take();
            asked_.push_back(r.question().to);
        });
        in_.subscribe(found_, [this](const CourseFound& f) {
            if (!open_[f.to].give(f.buoys)) {
                std::printf("course to berth %d: nobody waits for it any more\n", f.to);
            }
        });
    }
    void work() { // as long as it takes; here at once
        std::thread([asked = std::exchange(asked_, {}), out = courier::inlet<CourseFound>{arrivals_, found_}] {
            for (const int to : asked) {
                out.send({.to = to, .buoys = {to, 10 * to, 100 * to}});
            }
        }).join();
        arrivals_.take_in();
    }

private:
    courier::inbox arrivals_;
    courier::channel<CourseFound> found_{"courses.found"};
    std::map<int, courier::reply<std::vector<int>>> open_;
    std::vector<int> asked_;
    courier::subscriber in_{"pilot"};
};

courier::sequence<> sail(courier::channel<courier::request<CourseAsked>>& courses, courier::timetable& clock, int to) {
    std::printf("barge for berth %d asks\n", to);
    const auto course = co_await courier::within(clock, 1s, courier::ask(courses, {.to = to}));
    if (!course) {
        std::printf("barge for berth %d sails without one\n", to);
    } else if (*course) {
        std::printf("barge for berth %d sails by %zu buoys\n", to, (*course)->size());
    } else {
        std::printf("barge for berth %d: nobody knows a course\n", to);
    }
}

int main() {
    courier::channel<courier::request<CourseAsked>> courses{"courses.asked"};
    courier::outbox later{"end of frame"};
    courier::timetable clock{later};
    const auto frame = [&](courier::game_time step) {
        clock.advance(step);
        later.deliver();
    };
    courier::subscriber in{"barges"};

    in.start(sail(courses, clock, 1)); // there is no pilot yet
    pilot harbour(courses, later);
    in.start(sail(courses, clock, 2));
    harbour.work();
    frame(16ms);

    in.start(sail(courses, clock, 3));
    frame(1s); // too long
    harbour.work();
    frame(16ms);
}
