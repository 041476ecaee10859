// expect: courier: a const query can be asked only
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::query<DepthAsked> depth{"depth"};
    const courier::query<DepthAsked>& ask_only = depth;
    const auto s = ask_only.answer([](const DepthAsked&) { return 4; });
}
