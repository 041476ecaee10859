// expect: courier: before version 13, g\+\+ destroys
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/sequence.hpp>
#include <courier/wait.hpp>

#if !defined(__GNUC__) || defined(__clang__) || __GNUC__ >= 13
#error "courier: before version 13, g++ destroys captures twice; this compiler does not"
#endif

courier::sequence<> story(courier::channel<Moored>& moored, std::string name) {
    co_await courier::next(moored, [name](const Moored& m) { return m.boat > static_cast<int>(name.size()); });
}

int main() {}
