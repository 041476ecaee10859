// Ends a test program that grows past a gigabyte before it can harm the machine.
#include "sanitized.hpp"

#include <sys/resource.h>

namespace {

// Sanitizers reserve far more than they use, and have bounds of their own.
[[maybe_unused]] const int bounded = [] {
    constexpr rlim_t gigabyte = 1024UL * 1024 * 1024;
    const rlimit bound{gigabyte, gigabyte};
    return test::sanitized ? 0 : setrlimit(RLIMIT_AS, &bound);
}();

} // namespace
