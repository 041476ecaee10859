// expect: (nodiscard|unused)
#include "reef.hpp"

int main() {
    courier::query<DepthAsked> depth{"depth"};
    depth.ask({.hour = 3});
}
