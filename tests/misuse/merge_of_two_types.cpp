// expect: courier: merged sources carry one type
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/pipeline.hpp>
#include <courier/state.hpp>

int main() {
    courier::channel<Moored> moored{"moored"};
    courier::state<int> tide{"tide"};
    const auto s = courier::merge(moored, tide).subscribe([] {});
}
