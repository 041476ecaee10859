// expect: courier: a function that is called in its time takes no arguments
#include "reef.hpp"

#include <courier/subscriber.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

#include <chrono>

int main() {
    courier::outbox later;
    courier::timetable hours{later};
    courier::subscriber in{"keeper"};
    in.after(hours, std::chrono::seconds(1), [](int) {});
}
