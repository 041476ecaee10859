// expect: courier: what is merged carries one type
#include "reef.hpp"

#include <courier/pipeline.hpp>
#include <courier/state.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::state<int> tide{"tide"};
    const auto s = courier::merge(moored, tide).subscribe([] {});
}
