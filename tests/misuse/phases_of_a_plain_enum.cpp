// expect: courier: phases are an enum class
#include "reef.hpp"

#include <courier/phases.hpp>

enum Watch { calm, storm };

int main() {
    courier::phases<Watch> hours{"watch", calm};
}
