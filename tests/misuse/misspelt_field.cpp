// expect: (has no|does not refer to any).*(member|field)
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish(Moored{.bote = 3});
}
