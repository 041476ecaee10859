// expect: (no matching|could not convert|cannot convert|no viable conversion|no known conversion)
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
struct Bitten {
    int barge;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    const auto s = moored.subscribe([] {}, {.condition = [](const Bitten&) { return true; }});
}
