// Handing the cause of what happens on, where the library cannot see it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/oversight.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

/// The event whose handling goes on where it is made. A plain value that may
/// be kept and handed to other threads. Nested publishes, outboxes, inboxes,
/// timetables, relays, queries, sequences and states keep causes by
/// themselves; this is for queues of your own.
///
///     jobs.add([work, why = courier::cause::here()] {
///         const courier::caused_by now(why);
///         done.send({.path = find_path(work)});    // caused by what asked for the job
///     });
class cause {
public:
    /// None.
    cause() noexcept = default;

    /// The event that this thread handles, or else the one that a `caused_by` names; none without either.
    [[nodiscard]] static cause here() noexcept {
        cause now;
        if (detail::overseen()) {
            now.packed_ = detail::packed_cause();
            now.handling_ = detail::origin_here().handling;
        } else {
            now.packed_ = detail::this_oversight.carried;
        }
        return now;
    }

private:
    friend class caused_by;
    std::uint64_t packed_ = 0;
    std::uint32_t handling_ = 0;
};

WIRED_COURIER_NAMESPACE_END
