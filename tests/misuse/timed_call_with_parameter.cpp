// expect: courier: a function that is called in its time takes no arguments
// within: 12 lines
#include "reef.hpp"

#include <chrono>

int main() {
    courier::outbox later;
    courier::timetable hours{later};
    courier::subscriber in{"keeper"};
    in.after(hours, std::chrono::seconds(1), [](int) {});
}
