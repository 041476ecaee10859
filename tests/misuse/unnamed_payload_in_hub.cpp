// expect: courier: a payload in an unnamed namespace cannot go through a hub
// within: 12 lines
#include "reef.hpp"

namespace {
struct Local {};
} // namespace

int main() {
    courier::hub match{"match"};
    match.channel<Local>().publish();
}
