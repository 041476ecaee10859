// expect: courier: this source cannot call this handler
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

struct Logbook {
    explicit Logbook(const courier::channel<Moored>& moored) { in.subscribe(moored, &Logbook::on_moored); }
    void on_moored(const Moored&) {}
    courier::subscriber in{"logbook"};
};

int main() {}
