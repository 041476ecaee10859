// expect: (cannot convert|could not convert|no viable conversion)
// except: both compilers say that an optional is no int, in their own words
#include "reef.hpp"

#include <courier/query.hpp>

int main() {
    courier::query<DepthAsked> depth{"depth"};
    int fathoms = depth.ask({.hour = 3});
    return fathoms;
}
