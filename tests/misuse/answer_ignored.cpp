// expect: (nodiscard|unused)
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::query<DepthAsked> depth{"depth"};
    depth.ask({.hour = 3});
}
