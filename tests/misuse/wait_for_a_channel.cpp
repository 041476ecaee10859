// expect: courier: co_await takes a wait
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/sequence.hpp>

courier::channel<Moored> moored{"moored"};
courier::sequence<> watch() {
    co_await moored;
}
