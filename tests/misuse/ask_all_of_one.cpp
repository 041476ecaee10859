// expect: courier: this query has one answerer at most
#include "reef.hpp"

#include <courier/query.hpp>

int main() {
    courier::query<DepthAsked> depth{"depth"};
    return static_cast<int>(depth.ask_all({.hour = 3}).size());
}
