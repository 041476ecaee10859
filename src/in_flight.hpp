// Beginning and ending publishes, for all ways of delivering.
#pragma once

#include <courier/depth.hpp>
#include <courier/detail/frame.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// Ends a publish in which something out of the ordinary may have happened,
/// after `walked` entries; gives the frame up and throws what it caught.
receipt finish(frame& f, std::size_t walked);

/// Refuses a publish that is nested too deeply.
[[gnu::cold]] receipt refuse(const channel_core& core, std::source_location where);

/// Notes that a verdict stopped `f`, should it be a payload of a batch.
void note_stop(const frame& f);

#if WIRED_COURIER_EXCEPTIONS
/// Called from a catch clause, with the subscription whose handler threw.
void note_failure(frame& f, const slot& s) noexcept;
#endif

/// Whether `s` was subscribed at or after the moment `born`; the numbers wrap.
inline bool born_since(const slot& s, std::uint32_t born) noexcept {
    return static_cast<std::int32_t>(static_cast<std::uint32_t>(s.born) - born) >= 0;
}

/// How many entries of `list` a publish that began at `born` serves: what was
/// subscribed since waits for the next one.
[[nodiscard]] inline std::uint32_t count_before(const stage_list& list, std::uint32_t born) noexcept {
    std::uint32_t count = list.size;
    while (count != 0 && (is_gone(list.entries[count - 1]) || born_since(*list.slots[count - 1], born))) {
        --count;
    }
    return count;
}

/// Sets `f` up inside of `outer`.
inline void enter_nested(frame& f, channel_core& core, frame& outer, std::source_location where) noexcept {
    f.core = &core;
    f.unusual = 0;
    f.where = where;
    f.outer = &outer;
    f.depth = outer.depth + 1;
    this_thread.nested = &f;
}

/// Gives a nested frame up.
inline void leave_nested(frame& f) noexcept {
    this_thread.nested = f.outer != &this_thread.outermost ? f.outer : nullptr;
}

/// Carries `walk` out in a frame, however deep; it returns how many entries it walked.
template <class Walk>
receipt walk_in_frame(channel_core& core, std::source_location where, Walk walk) {
    frame* const outer = innermost();
    if (outer == nullptr) {
        frame& f = this_thread.outermost;
        f.core = &core;
        f.end = 1;
        const std::size_t walked = walk(f);
        if (f.unusual != 0) [[unlikely]] {
            return finish(f, walked);
        }
        f.core = nullptr;
        return {static_cast<std::uint32_t>(walked), 0, nullptr};
    }
    frame f;
    enter_nested(f, core, *outer, where);
    f.end = 1;
    const std::size_t walked = walk(f);
    if (f.unusual != 0) [[unlikely]] {
        return finish(f, walked);
    }
    leave_nested(f);
    return {static_cast<std::uint32_t>(walked), 0, nullptr};
}

/// The same for a publish, which is refused when it is nested too deeply.
template <class Walk>
receipt deliver_in_frame(channel_core& core, std::source_location where, Walk walk) {
    if (const frame* const outer = innermost(); outer != nullptr && outer->depth + 1 >= depth_limit()) [[unlikely]] {
        return refuse(core, where);
    }
    return walk_in_frame(core, where, walk);
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
