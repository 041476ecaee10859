// expect: (cannot convert|could not convert|no viable conversion)
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::query<DepthAsked> depth{"depth"};
    int fathoms = depth.ask({.hour = 3});
    return fathoms;
}
