// expect: courier: a system takes another one by reference
// within: 12 lines
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
