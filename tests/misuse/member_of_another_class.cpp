// expect: courier: this source cannot call this handler
#include "reef.hpp"

#include <courier/channel.hpp>

struct Logbook {
    void on_moored(int) {}
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    Logbook book;
    const auto s = moored.subscribe<&Logbook::on_moored>(book);
}
