// Publishes in flight: what is known of each while its handlers run.
#pragma once

#include <courier/detail/channel_core.hpp>

#include <cstddef>
#include <cstdint>
#include <exception>
#include <source_location>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// Anything out of the ordinary that a publish has to look at when it has
/// walked its entries. The lower half of the word counts skipped entries.
enum frame_flag : std::uint64_t {
    frame_stopped = std::uint64_t{1} << 32,      ///< a verdict: nobody after this handler
    frame_finish_stage = std::uint64_t{1} << 33, ///< a verdict: no later stage
    frame_closed = std::uint64_t{1} << 34,       ///< the channel ended
    frame_clean_up = std::uint64_t{1} << 35,     ///< the outermost publish on its channel has memory to free
    frame_failed = std::uint64_t{1} << 36,       ///< `error` holds the first exception
};

/// Either verdict.
inline constexpr std::uint64_t frame_ruled = frame_stopped | frame_finish_stage;

/// Without initialisers, since the hot path sets what it needs and nothing twice.
struct frame {
    channel_core* core;
    std::uintptr_t end;         ///< the loop runs while its position is below; 0 ends it
    std::uint64_t unusual;      ///< flags above, skipped entries below
    std::source_location where; ///< of the publish; not kept for the outermost one, where it would show
    frame* outer;               ///< the publish whose handler made this one
    std::uint32_t depth;        ///< publishes around this one
    slot* ruled_by;             ///< whose verdict came first; with the flags of verdicts only
    /// Room for the first exception, a std::exception_ptr; with `frame_failed`
    /// only. Raw, so that the frame needs no destructor.
    alignas(std::exception_ptr) std::byte error[sizeof(std::exception_ptr)];
};

/// The frame of a publish that no handler made lies at a fixed place: there is
/// one at most, and it is in use while its `core` is not null. Setting it up
/// takes two stores.
struct thread_frames {
    frame outermost{};
    frame* nested = nullptr; ///< the innermost frame when there is more than one
};

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit thread_frames this_thread;

/// The innermost publish in flight on this thread, or null.
inline frame* innermost() noexcept {
    if (this_thread.nested != nullptr) {
        return this_thread.nested;
    }
    return this_thread.outermost.core != nullptr ? &this_thread.outermost : nullptr;
}

/// The outermost publish in flight on `core`, or null.
inline frame* outermost_on(const channel_core& core) noexcept {
    frame* found = nullptr;
    for (frame* f = innermost(); f != nullptr; f = f->outer) {
        if (f->core == &core) {
            found = f;
        }
    }
    return found;
}

/// What the loop runs in place of a handler that must not be called.
void skip(void* state, const void* payload);

/// What the loop runs for a subscription with a guard; `state` is its slot.
void run_guarded(void* state, const void* payload);

} // namespace courier::inline WIRED_COURIER_ABI::detail
