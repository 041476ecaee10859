// expect: no_room_between_these_stages
// except: clang says it of the call, and again of the constant
#include "reef.hpp"

#include <courier/stage.hpp>

constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
constexpr courier::stage wrong = courier::between(courier::ordinary, rules, "wrong");
int main() {
    return wrong == rules;
}
