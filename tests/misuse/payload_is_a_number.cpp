// expect: courier: a payload is a struct with named fields
#include <courier/courier.hpp>
int main() {
    courier::channel<int> depth{"tide.depth"};
}
