// expect: courier: a time needs a unit
#include "reef.hpp"

#include <courier/subscriber.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

int main() {
    courier::outbox later;
    courier::timetable clock{later};
    courier::subscriber in;
    in.after(clock, 2, [] {});
}
