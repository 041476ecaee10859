// expect: deleted
// within: 12 lines
#include "reef.hpp"
#include <utility>

struct Logbook {
    courier::subscriber in{"logbook"};
};
int main() {
    Logbook first;
    Logbook second{std::move(first)};
}
