// expect: courier: this handler cannot take this channel's payload
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
struct Logbook {
    void on_moored(int) {}
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    Logbook book;
    const auto s = moored.subscribe<&Logbook::on_moored>(book);
}
