// expect: courier: this channel.s payload has fields
#include <courier/courier.hpp>
struct Moored {
    int boat;
};
int main() {
    courier::channel<Moored> moored{"harbour.moored"};
    moored.publish();
}
