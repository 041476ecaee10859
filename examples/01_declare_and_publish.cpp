// Declare an event, publish it where it happens, react where it matters.
#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>

struct Moored {
    int boat;
    int cargo;
};

class Harbour {
public:
    // Others may subscribe, and only that.
    const courier::channel<Moored>& moored() const { return moored_; }

    void moor(int boat, int cargo) {
        const courier::receipt receipt = moored_.publish({.boat = boat, .cargo = cargo});
        std::printf("boat %d moors, %u served\n", boat, receipt.served());
    }

private:
    courier::channel<Moored> moored_{"harbour.moored"};
};

class Logbook {
public:
    explicit Logbook(const Harbour& harbour) {
        in_.subscribe(harbour.moored(), [this](const Moored& m) { landed_ += m.cargo; });
    }
    int landed() const { return landed_; }

private:
    int landed_ = 0;
    courier::subscriber in_{"logbook"}; // ends every subscription when the Logbook goes
};

int main() {
    Harbour harbour;
    harbour.moor(1, 10); // nobody there: safe
    {
        const Logbook logbook(harbour);
        harbour.moor(2, 20);
        harbour.moor(3, 30);
        std::printf("the logbook has %d\n", logbook.landed());
    }
    harbour.moor(4, 40); // the logbook is gone, and so is its subscription
}
