// expect: (nodiscard|leaves the group as soon as)
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::group<int> crew{"crew"};
    crew.join(3);
}
