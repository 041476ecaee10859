// expect: deleted
#include "reef.hpp"

#include <courier/subscriber.hpp>
#include <utility>

struct Logbook {
    courier::subscriber in{"logbook"};
};
int main() {
    Logbook first;
    Logbook second{std::move(first)};
}
