// expect: courier: a payload in an unnamed namespace cannot go through a hub
#include "reef.hpp"

#include <courier/hub.hpp>

namespace {
struct Local {};
} // namespace

int main() {
    courier::hub match{"match"};
    match.channel<Local>().publish();
}
