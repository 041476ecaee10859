// expect: courier: a time needs a unit
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::outbox later;
    courier::timetable clock{later};
    courier::subscriber in;
    in.after(clock, 2, [] {});
}
