// expect: courier: a time needs a unit
#include "reef.hpp"

#include <courier/frame_driver.hpp>

int main() {
    courier::frame_driver frame;
    frame.run(0.016f);
}
