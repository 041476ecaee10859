// expect: courier: Wired Courier needs C.*20: compile with -std=c
// within: 10 lines
// standard: c++17
#include <courier/channel.hpp>

int main() {}
