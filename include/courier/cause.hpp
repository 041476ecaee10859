// Handing the cause of what happens on, where the library cannot see it.
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

/// While it lives, what happens on this thread is caused by `why`.
class caused_by {
public:
    explicit caused_by(cause why) noexcept
        : by_(detail::of_this_ledger(detail::unpacked_cause(why.packed_), why.handling_)),
          carried_(detail::this_oversight.carried, why.packed_) {}

private:
    detail::caused_by by_;
    detail::meanwhile<std::uint64_t> carried_;
};

/// While it lives, what is published or posted on this thread counts as coming
/// from outside the game: input, messages from a server. A replay feeds that in
/// from the recording, and the game must not read it then; see
/// courier/replay.hpp. What comes through an inbox is from outside in any case.
class from_outside {
public:
    from_outside() noexcept : outside_(detail::this_oversight.unusual.outside, true) {}

private:
    detail::meanwhile<bool> outside_;
};

WIRED_COURIER_NAMESPACE_END
