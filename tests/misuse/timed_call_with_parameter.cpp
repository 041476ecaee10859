// expect: courier: what is called at its time takes nothing
// within: 12 lines
#include "reef.hpp"

#include <chrono>

int main() {
    courier::outbox later;
    courier::timetable hours{later};
    courier::subscriber in{"keeper"};
    in.after(hours, std::chrono::seconds(1), [](int) {});
}
