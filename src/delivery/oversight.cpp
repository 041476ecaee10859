// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/delivery/oversight.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit thread_oversight this_oversight;
#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit post_mark newest_change;

constinit const onlooker* the_onlooker = nullptr;

void set_onlooker(const onlooker& one) noexcept {
#if defined(__GNUC__)
    __atomic_store_n(&the_onlooker, &one, __ATOMIC_RELAXED);
#else
    the_onlooker = &one;
#endif
}

origin origin_here() noexcept {
    return overseen() ? looks_on().origin_here() : of_this_ledger(0, 0);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
