// expect: no_room_between_these_stages
// within: 12 lines
#include "reef.hpp"

constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
constexpr courier::stage wrong = courier::between(courier::ordinary, rules, "wrong");
int main() {
    return wrong == rules;
}
