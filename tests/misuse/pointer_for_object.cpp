// expect: courier: give the object itself instead of a pointer to it
// within: 10 lines
#include "reef.hpp"

struct Logbook {
    explicit Logbook(const courier::channel<Moored>& moored) { in.subscribe<&Logbook::on_moored>(moored, this); }
    void on_moored(const Moored&) {}
    courier::subscriber in{"logbook"};
};

int main() {}
