// expect: (no matching|could not convert|cannot convert|no viable conversion|no known conversion)
#include "reef.hpp"

int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([] {}, {.condition = [](const Bitten&) { return true; }});
}
