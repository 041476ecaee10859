// Lists and maps announce what was added, removed and changed; channels keep their last payload for who comes late.
#include <courier/addressed_channel.hpp>
#include <courier/announced_list.hpp>
#include <courier/announced_map.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <string>

struct Order {
    std::string what;
    int crates;
    bool operator==(const Order&) const = default;
};

struct SetCourse {
    using address = int; // a barge
    int degrees;
};

int main() {
    courier::announced_list<Order> orders{"orders.open", {{"lamp oil", 4}}};
    courier::announced_map<int, int> berths{"harbour.berths"}; // which barge lies where
    courier::subscriber in{"board"};
    in.subscribe(orders,
                 [](const courier::list_change<Order>& c) {
                     if (c.after() != nullptr) {
                         std::printf("order %zu: %s, %d crates\n", c.index() + 1, c.after()->what.c_str(),
                                     c.after()->crates);
                     } else {
                         std::printf("order %zu is gone: %s\n", c.index() + 1, c.before()->what.c_str());
                     }
                 },
                 {.retained = true}); // what is there already comes as added
    in.subscribe(berths, [](const courier::map_change<int, int>& c) {
        std::printf("berth %d: %s\n", c.key(), c.after() != nullptr ? "taken" : "free");
    });
    in.keep_current([&] { // depends on berth 2 and on no other
        std::printf("berth 2 holds %d\n", berths.read(2) != nullptr ? *berths.read(2) : 0);
    });
    orders.add({"rope", 2});
    orders.set(0, {"lamp oil", 3});
    orders.remove(1);
    berths.set(1, 7);
    berths.set(2, 4);

    courier::addressed_channel<SetCourse> course{"barges.course"};
    course.retain_latest(); // both sides have to say so
    course.publish_to(3, {.degrees = 90});
    course.publish_to(3, {.degrees = 95});
    std::puts("-- a late joiner");
    in.subscribe(course.at(3), [](const SetCourse& c) { std::printf("barge 3 steers %d\n", c.degrees); },
                 {.retained = true});
}
