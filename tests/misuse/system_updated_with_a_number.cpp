// expect: courier: update\(\) of a system takes a courier::game_time or nothing
// except: clang names every function on the way to the update
#include <courier/systems.hpp>

struct Tides {
    void update(float seconds) { depth += seconds; }
    float depth = 2;
};

int main() {
    courier::systems reef{"reef"};
    reef.get<Tides>();
}
