// What a game's first use looks like.
#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

struct DawnCame {};

int main() {
    courier::channel<DawnCame> dawn{"watch.dawn_came"};
    courier::subscriber bell{"bell"};
    int rung = 0;
    bell.subscribe(dawn, [&rung] { ++rung; });
    return dawn.publish().served() == 1 && rung == 1 ? 0 : 1;
}
