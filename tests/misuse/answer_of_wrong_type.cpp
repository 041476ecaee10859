// expect: courier: this handler cannot answer this question
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::query<DepthAsked> depth{"depth"};
    const auto s = depth.answer([](const DepthAsked&) { return "four"; });
}
