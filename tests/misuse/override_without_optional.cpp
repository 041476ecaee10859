// expect: courier: this adaptor does not take the payload of the source before it
#include "reef.hpp"

#include <courier/channel.hpp>

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> under{"under"};
    courier::channel<Moored> over{"over"};
    const auto s = (under | courier::overridden_by(over)).subscribe([] {});
}
