// Ends a test program that grows past a gigabyte before it can harm the machine.
#include <sys/resource.h>

namespace {

// Sanitizers reserve far more than they use, and have bounds of their own.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr bool has_bound_of_its_own = true;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
constexpr bool has_bound_of_its_own = true;
#else
constexpr bool has_bound_of_its_own = false;
#endif
#else
constexpr bool has_bound_of_its_own = false;
#endif

const int bounded = [] {
    constexpr rlim_t gigabyte = 1024UL * 1024 * 1024;
    const rlimit bound{gigabyte, gigabyte};
    return has_bound_of_its_own ? 0 : setrlimit(RLIMIT_AS, &bound);
}();

} // namespace
