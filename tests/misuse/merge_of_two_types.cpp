// expect: courier: merged sources carry one type
// within: 12 lines
#include "reef.hpp"

#include <courier/pipeline.hpp>
#include <courier/state.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::state<int> tide{"tide"};
    const auto s = courier::merge(moored, tide).subscribe([] {});
}
