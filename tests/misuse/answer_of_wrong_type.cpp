// expect: courier: this handler cannot answer this question
#include "reef.hpp"

#include <courier/query.hpp>

int main() {
    courier::query<DepthAsked> depth{"depth"};
    const auto s = depth.answer([](const DepthAsked&) { return "four"; });
}
