// expect: courier: a const query can be asked only
#include "reef.hpp"

#include <courier/query.hpp>

int main() {
    courier::query<DepthAsked> depth{"depth"};
    const courier::query<DepthAsked>& ask_only = depth;
    const auto s = ask_only.answer([](const DepthAsked&) { return 4; });
}
