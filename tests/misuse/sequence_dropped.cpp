// expect: (nodiscard|a sequence does nothing until)
// within: 12 lines
#include "reef.hpp"

#include <courier/sequence.hpp>
#include <courier/wait.hpp>

courier::sequence<> waits(const courier::channel<Moored>& moored) {
    co_await courier::next(moored);
}

int main() {
    courier::channel<Moored> moored{"moored"};
    waits(moored);
}
