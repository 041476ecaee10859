// expect: courier: a question declares the type of its answer
// within: 12 lines
#include "reef.hpp"

int main() {
    courier::query<Moored> moored{"moored"};
}
