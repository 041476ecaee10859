// The delivery loop, and the plain way into it. It does not depend on the
// payload; it is in a header because one call less is what a publish to few
// subscribers is made of.
#pragma once

#include <courier/detail/frame.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// Takes over from the loop when a handler threw, inside the catch clause:
/// serves the rest and returns where the walk ended.
const entry* serve_after_failure(const entry* thrower, const void* payload);

/// Ends a plain publish in which something out of the ordinary happened; the
/// walk ended at `at`.
receipt finish_plain(const entry* at);

/// Calls one handler after the other, from `at` on, of which there is one at
/// least; returns where that ended.
/// Position and payload stay in registers; the end is read from the frame each
/// time, since a verdict or the end of the channel moves it.
[[gnu::always_inline]] inline const entry* serve_entries(frame& f, const entry* at, const entry* past,
                                                         const void* payload) {
    f.end = reinterpret_cast<std::uintptr_t>(past);
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        do {
            at->run(at->state, payload);
        } while (reinterpret_cast<std::uintptr_t>(++at) < f.end);
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) { // `at` is still the one that threw
        at = serve_after_failure(at, payload);
    }
#endif
    return at;
}

/// The plain case: one stage, and no handler is publishing.
[[gnu::always_inline]] inline receipt publish(channel_core& core, const void* payload, std::source_location where) {
    if (core.work != work_entries || this_thread.outermost.core != nullptr) [[unlikely]] {
        return core.work != 0 ? deliver(core, payload, where) : receipt{};
    }
    this_thread.outermost.core = &core;
    const entry* const at = serve_entries(this_thread.outermost, core.base.entries, core.base.past, payload);
    if (this_thread.outermost.unusual != 0) [[unlikely]] {
        return finish_plain(at);
    }
    // Had the list been outgrown meanwhile, that would have been unusual.
    const entry* const first = this_thread.outermost.core->base.entries;
    this_thread.outermost.core = nullptr;
    return {static_cast<std::uint32_t>(at - first), 0, nullptr};
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
