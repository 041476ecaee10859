// expect: (nodiscard|the systems end as soon as this team is destroyed)
#include "reef.hpp"

#include <courier/systems.hpp>

int main() {
    courier::systems reef;
    reef.add<Dawn>("dawn");
}
