// expect: courier: an overriding source carries std::optionals
// within: 12 lines
#include "reef.hpp"

#include <courier/pipeline.hpp>

int main() {
    courier::channel<Moored> under{"under"};
    courier::channel<Moored> over{"over"};
    const auto s = (under | courier::overridden_by(over)).subscribe([] {});
}
