// expect: courier: this handler cannot take this channel's payload
// within: 12 lines
#include "reef.hpp"

struct Logbook {
    void on_moored(int) {}
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    Logbook book;
    const auto s = moored.subscribe<&Logbook::on_moored>(book);
}
