// expect: courier: the results of several waits are copied
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/sequence.hpp>
#include <courier/wait.hpp>

#include <memory>

struct Chart {
    std::unique_ptr<int> sheet;
};

int main() {
    courier::channel<Chart> charts{"charts"};
    courier::channel<Moored> moored{"moored"};
    auto wait = courier::when_any(courier::next(charts), courier::next(moored));
}
