// expect: courier: give the object itself instead of a pointer to it
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

struct Logbook {
    explicit Logbook(const courier::channel<Moored>& moored) { in.subscribe<&Logbook::on_moored>(moored, this); }
    void on_moored(const Moored&) {}
    courier::subscriber in{"logbook"};
};

int main() {}
