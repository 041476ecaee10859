// expect: courier: a retained payload is copied for the wait
#include "reef.hpp"

#include <courier/sequence.hpp>
#include <courier/state.hpp>
#include <courier/wait.hpp>

int main() {
    courier::state<int> tide{"tide", 3};
    auto wait = courier::next(tide, {.retained = true});
}
