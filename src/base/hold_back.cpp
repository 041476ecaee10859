// SPDX-License-Identifier: MIT
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/hold_back.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit held_back this_hold;

void carry_out_held_back() noexcept {
    if (this_hold.refreshers != nullptr) {
        at_the_end("refreshers", [] { this_hold.refreshers(); });
    }
    if (this_hold.sequences != nullptr) {
        at_the_end("sequences", [] { this_hold.sequences(); });
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
