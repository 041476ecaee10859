// expect: courier: a member function is named in angle brackets, and the object given
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

struct Logbook {
    explicit Logbook(const courier::channel<Moored>& moored) { in.subscribe(moored, &Logbook::on_moored, this); }
    void on_moored(const Moored&) {}
    courier::subscriber in{"logbook"};
};

int main() {}
