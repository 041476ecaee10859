// Beginning and ending publishes, for all ways of delivering.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/depth.hpp>
#include <courier/detail/delivery/flight.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Ends a publish in which something out of the ordinary may have happened,
/// after `walked` entries; gives the flight up and throws what it caught.
receipt finish(flight& f, std::size_t walked);

/// Refuses a publish that is nested too deeply.
[[gnu::cold]] receipt refuse(const channel_core& core, std::source_location where);

/// Notes that a verdict stopped `f`, should it be a payload of a batch.
void note_stop(const flight& f);

#if WIRED_COURIER_EXCEPTIONS
/// Called from a catch clause, with the subscription whose handler threw.
void note_failure(flight& f, const slot& s) noexcept;
#endif

/// Serves everybody, or those at one address, without telling whoever looks on.
receipt deliver_without_notes(channel_core& core, const void* payload, std::source_location where);
receipt deliver_at_without_notes(channel_core& core, const address_cell& at, const void* payload,
                                 std::source_location where);
receipt serve_parts(channel_core& core, const std::vector<address_part*>& parts, const void* payload,
                    std::source_location where);

/// Those at an address and those who listen to all, in order; `vacant`: nobody
/// is at the address itself.
std::vector<address_part*> collect_at(const channel_core& core, address_part* first, bool& vacant);

[[nodiscard]] inline receipt with_vacancy(receipt r, bool vacant) noexcept {
    return vacant ? receipts::marked(r, receipt_vacant) : r;
}

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
inline void enter_nested(flight& f, channel_core& core, flight& outer, std::source_location where) noexcept {
    f.begin(core, outer, where);
    this_thread.nested = &f;
}

/// Gives a nested flight up.
inline void leave_nested(flight& f) noexcept {
    this_thread.nested = f.outer() != &this_thread.outermost ? f.outer() : nullptr;
}

/// Carries `walk` out in a flight inside of `outer`, the innermost one or null,
/// however deep; it returns how many entries it walked.
template <class Walk>
[[gnu::always_inline]] inline receipt walk_inside(flight* const outer, channel_core& core, std::source_location where,
                                                  Walk walk) {
    if (outer == nullptr) {
        flight& f = this_thread.outermost;
        f.begin(core);
        const std::size_t walked = walk(f);
        if (!f.is_usual()) [[unlikely]] {
            return finish(f, walked);
        }
        f.end();
        return receipts::made(static_cast<std::uint32_t>(walked));
    }
    flight f; // NOLINT(cppcoreguidelines-pro-type-member-init): see there
    enter_nested(f, core, *outer, where);
    const std::size_t walked = walk(f);
    if (!f.is_usual()) [[unlikely]] {
        return finish(f, walked);
    }
    leave_nested(f);
    return receipts::made(static_cast<std::uint32_t>(walked));
}

template <class Walk>
receipt walk_in_flight(channel_core& core, std::source_location where, Walk walk) {
    return walk_inside(innermost(), core, where, walk);
}

/// Whether one publish more, inside of `outer`, would be nested too deeply.
[[nodiscard]] inline bool is_too_deep(const flight* outer) noexcept {
    return outer != nullptr && outer->depth() + 1 >= depth_limit();
}

/// The same for a publish, which is refused when it is nested too deeply.
template <class Walk>
receipt deliver_in_flight(channel_core& core, std::source_location where, Walk walk) {
    flight* const outer = innermost();
    return is_too_deep(outer) ? refuse(core, where) : walk_inside(outer, core, where, walk);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
