// expect: courier: Wired Courier needs C.*20: compile with -std=c
// standard: c++17
#include <courier/channel.hpp>

int main() {}
