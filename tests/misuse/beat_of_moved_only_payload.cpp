// expect: courier: a payload that comes at every interval is copied each time
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

#include <chrono>
#include <memory>

struct Chart {
    std::unique_ptr<int> sheet;
};

int main() {
    courier::channel<Chart> charts{"charts"};
    courier::outbox later;
    courier::timetable hours{later};
    const courier::timer b = hours.every(std::chrono::seconds(1), charts, {});
}
