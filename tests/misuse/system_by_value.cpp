// expect: courier: a system takes another one by reference
// except: clang names every function on the way to the constructor
#include <courier/systems.hpp>

struct Tides {
    void update() { ++depth; }
    int depth = 3;
};
struct Barges {
    explicit Barges(Tides water) : depth(water.depth) {}
    int depth;
};

int main() {
    courier::systems reef{"reef"};
    reef.get<Barges>();
}
