// PAYLOADS payload types, each with a channel, a subscription and a publish:
// what one more costs in machine code is the difference between two builds.
#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#define USE(n)                                                                                                         \
    struct Payload##n {                                                                                                \
        int value;                                                                                                     \
    };                                                                                                                 \
    struct System##n {                                                                                                 \
        courier::channel<Payload##n> channel{"system.payload"};                                                        \
        courier::subscriber in{"system"};                                                                              \
        int sum = 0;                                                                                                   \
    };                                                                                                                 \
    void subscribe_##n(System##n& s) {                                                                                 \
        s.in.subscribe(s.channel, [&s](const Payload##n& p) { s.sum += p.value; });                                    \
    }                                                                                                                  \
    void publish_##n(System##n& s, int value) {                                                                        \
        s.channel.publish({.value = value});                                                                           \
    }                                                                                                                  \
    System##n* make_##n() {                                                                                            \
        return new System##n;                                                                                          \
    }                                                                                                                  \
    void unmake_##n(System##n* s) {                                                                                    \
        delete s;                                                                                                      \
    }

USE(0)
#if PAYLOADS > 1
USE(1) USE(2) USE(3) USE(4) USE(5) USE(6) USE(7) USE(8) USE(9) USE(10)
#endif
