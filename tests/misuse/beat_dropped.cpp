// expect: (nodiscard|nothing is posted once)
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

#include <chrono>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::outbox later;
    courier::timetable hours{later};
    hours.every(std::chrono::seconds(1), moored, {.boat = 3});
}
