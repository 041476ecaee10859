// The delivery loop, and the plain way into it. It does not depend on the
// payload; it is in a header because one call less is what a publish to few
// subscribers is made of.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/flight.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Takes over from the plain loop when the handler of the entry `at` threw,
/// inside the catch clause: serves the rest and returns where the walk ended.
const entry* serve_after_failure(const entry* at, const entry* past, const void* payload);

/// Ends a plain publish in which something out of the ordinary happened; the
/// walk ended at `at`.
receipt finish_plain(const entry* at);

/// What `serve_entries()` tells of the turns that come: nothing to nobody, of
/// a channel with one list.
struct plain_turns {
    void turn(const entry*) const noexcept {}
    const entry* serve_rest(const entry* at, const entry* past, const void* payload) const {
        return serve_after_failure(at, past, payload);
    }
};

/// Stands in front of the delivery loop, whose registers it names so that nothing
/// comes in between. On some processors a branch that touches the end of a 32
/// byte block is slow (Intel, "Mitigations for Jump Conditional Code Erratum",
/// 2019): a fifth of the time of a delivery. The loop has some 20 bytes, so it
/// lies in one block when it begins there.
[[gnu::always_inline]] inline void align_loop([[maybe_unused]] const entry*& at,
                                              [[maybe_unused]] const void*& payload) noexcept {
#if defined(__GNUC__) && defined(__x86_64__)
    asm volatile(".p2align 5" : "+r"(at), "+r"(payload));
#endif
}

/// Calls one handler after the other, from `at` on, of which there is one at
/// least; returns where that ended.
///
/// Position, end and payload stay in registers. The end can only move where a
/// handler may give a verdict, which is known when it subscribes (`CanStop`); a
/// channel that ends neutralises the entries that are left.
template <bool CanStop, class Turns>
[[gnu::always_inline]] inline const entry* serve_entries(flight& f, const entry* at, const entry* const past,
                                                         const void* payload, Turns seen) {
    f.walks(at);
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        align_loop(at, payload);
        do {
            seen.turn(at);
            at->run(at->state, payload);
        } while (++at != past && (!CanStop || f.goes_on()));
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) { // `at` is still the one that threw
        at = seen.serve_rest(at, past, payload);
    }
#endif
    return at;
}

/// The plain case: one stage, nobody who gives verdicts, and no handler is publishing.
[[gnu::always_inline]] inline receipt publish(channel_core& core, const void* payload, std::source_location where) {
    if (core.work != work_entries || this_thread.outermost.is_under_way()) [[unlikely]] {
        return core.work != 0 ? deliver(core, payload, where) : receipt{};
    }
    flight& f = this_thread.outermost;
    f.begin(core);
    const entry* const at = serve_entries<false>(f, core.base.entries, core.base.past, payload, plain_turns{});
    if (!f.is_usual()) [[unlikely]] {
        return finish_plain(at);
    }
    f.end();
    return receipts::made(static_cast<std::uint32_t>(f.index_of(at)));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
