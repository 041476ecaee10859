// A second translation unit with everything in it, to be linked with the
// others: a function that should be inline and is not shows here.
#include <courier/courier.hpp>

namespace test {

std::size_t second_unit() {
    struct Dawn {};
    courier::channel<Dawn> dawn{"watch.dawn"};
    const auto s = dawn.subscribe([] {});
    return dawn.publish().served();
}

} // namespace test
