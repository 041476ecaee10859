// expect: (nodiscard|a sequence does nothing until)
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/sequence.hpp>
#include <courier/wait.hpp>

courier::sequence<> waits(const courier::channel<Moored>& moored) {
    co_await courier::next(moored);
}

int main() {
    courier::channel<Moored> moored{"moored"};
    waits(moored);
}
