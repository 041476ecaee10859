// expect: (nodiscard|nothing is posted once)
// within: 12 lines
#include "reef.hpp"

#include <chrono>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::outbox later;
    courier::timetable hours{later};
    hours.every(std::chrono::seconds(1), moored, {.boat = 3});
}
