// expect: (nodiscard|the systems end as soon as this team is destroyed)
// within: 10 lines
#include "reef.hpp"

#include <courier/systems.hpp>

int main() {
    courier::systems reef;
    reef.add<Dawn>("dawn");
}
