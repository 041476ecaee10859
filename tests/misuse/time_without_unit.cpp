// expect: courier: a time needs a unit
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::frame_driver frame;
    frame.run(0.016f);
}
