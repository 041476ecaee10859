// expect: courier: a question declares the type of its answer
#include "reef.hpp"

#include <courier/query.hpp>

int main() {
    courier::query<Moored> moored{"moored"};
}
