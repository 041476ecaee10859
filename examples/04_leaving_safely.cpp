// Whatever ends in the middle of a publish, nothing dead is called.
#include <courier/channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <memory>

struct WyrmStruck {
    int boat;
};

class Boat {
public:
    Boat(int number, const courier::channel<WyrmStruck>& struck, std::unique_ptr<Boat>* fleet) : number_(number) {
        in_.subscribe(struck, [this, fleet](const WyrmStruck& s) {
            std::printf("  boat %d hears of it\n", number_);
            if (s.boat == number_) {
                std::printf("  boat %d is lost, and boat %d with it\n", number_, number_ + 1);
                fleet[number_ + 1].reset(); // not called any more, not even for this blow
                fleet[number_].reset();     // a handler may end its own subscriber
            }
        });
    }

private:
    int number_;
    courier::subscriber in_{"boat"};
};

int main() {
    auto struck = std::make_unique<courier::channel<WyrmStruck>>("wyrms.struck");
    const courier::publisher<WyrmStruck> wyrm{*struck, "wyrm"};

    std::unique_ptr<Boat> fleet[4];
    for (int i = 0; i < 4; ++i) {
        fleet[i] = std::make_unique<Boat>(i, *struck, fleet);
    }

    std::puts("the wyrm strikes boat 1:");
    std::printf("%u served\n", wyrm.publish({.boat = 1}).served());
    std::puts("the wyrm strikes at nothing:");
    std::printf("%u served\n", wyrm.publish({.boat = 9}).served());

    struck.reset(); // the channel goes first; the boats do not mind
    std::printf("channel closed: %s\n", wyrm.publish({.boat = 0}).closed() ? "yes" : "no");
}
