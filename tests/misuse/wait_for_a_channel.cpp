// expect: courier: co_await takes a wait
// within: 12 lines
#include "reef.hpp"

#include <courier/sequence.hpp>

courier::channel<Moored> moored{"moored"};
courier::sequence<> watch() {
    co_await moored;
}
