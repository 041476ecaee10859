// expect: courier: a question says what its answer is
#include "reef.hpp"

int main() {
    courier::query<Moored> moored{"moored"};
}
