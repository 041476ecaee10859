// expect: courier: what is posted again and again is copied each time
#include "reef.hpp"

#include <chrono>
#include <memory>

struct Chart {
    std::unique_ptr<int> sheet;
};

int main() {
    courier::channel<Chart> charts{"charts"};
    courier::outbox later;
    courier::timetable hours{later};
    const courier::beat b = hours.every(std::chrono::seconds(1), charts, {});
}
