// expect: (nodiscard|leaves the group as soon as)
#include "reef.hpp"

#include <courier/group.hpp>

int main() {
    courier::group<int> crew{"crew"};
    crew.join(3);
}
