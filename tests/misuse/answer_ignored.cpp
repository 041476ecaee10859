// expect: (nodiscard|unused)
#include "reef.hpp"

#include <courier/query.hpp>

int main() {
    courier::query<DepthAsked> depth{"depth"};
    depth.ask({.hour = 3});
}
