// expect: courier: .during is asked at each turn
#include "reef.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <courier/phases.hpp>

enum class watch { day, night };

int main() {
    courier::phases<watch> now{"watch", watch::day, {}};
    courier::channel<Moored> moored{"moored"};
    courier::subscriber in;
    in.subscribe(moored, [](const Moored&) {}, {.during = now.is(watch::day)});
}
