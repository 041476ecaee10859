// What a ledger does when something happens. It is above all that calls it
// here, which knows it by this table only.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/turn.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Called only where a ledger is attached: to a channel (`is_noted()`), or to
/// the thread (`overseen()`).
struct onlooker {
    // Publishes on channels that are in its books.
    receipt (*publish)(channel_core& core, const void* payload, std::source_location where, const publish_note& note);
    receipt (*publish_at)(channel_core& core, const address_cell& at, const void* payload, std::source_location where,
                          const publish_note& note);
    receipt (*publish_to_parts)(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                                std::source_location where, const publish_note& note, bool vacant);
    void (*serve_kept)(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                       std::source_location where);

    // What becomes of a turn. The handler is not called; `why` it says itself,
    // unless it was paused or has ended.
    void (*missed)(turn why) noexcept;
    /// The handler was called, and let what came fall.
    void (*filtered)() noexcept;
    /// Of handlers that take spans.
    void (*missed_span)(slot& s, turn why, std::size_t count) noexcept;
    void (*serve_span)(slot& s, const void* first, std::size_t count);

    // Subscriptions, channels and subscribers.
    void (*attached)(slot& s, const attach_request& request) noexcept;
    void (*detached)(slot& s) noexcept;
    void (*blocked)(slot& s, bool was_blocked) noexcept;
    void (*opened)(channel_core& core) noexcept;
    void (*closed)(channel_core& core) noexcept;
    void (*party_ended)(const party& gone) noexcept;
    /// The name of the channel's ledger, when that is of another thread; else null.
    const std::string* (*ledger_elsewhere)(const channel_core& core) noexcept;

    // What does not happen at once.
    origin (*origin_here)() noexcept;
    post_mark (*posted)(channel_core& target, const std::string& outbox, const void* payload,
                        std::source_location where, const address_label& to, posting_outcome outcome) noexcept;
    void (*frame_ended)(std::int64_t time) noexcept;
    /// A module is about to go, and with it what kinds point to.
    void (*module_ends)() noexcept;
};

/// Set when the first ledger of the program is made, so before anything is
/// attached; always to the same. Several threads may do that.
extern constinit const onlooker* the_onlooker;

[[nodiscard]] inline const onlooker& looks_on() noexcept {
#if defined(__GNUC__)
    return *__atomic_load_n(&the_onlooker, __ATOMIC_RELAXED);
#else
    return *the_onlooker;
#endif
}
void set_onlooker(const onlooker& one) noexcept;

/// Whether a ledger has this channel's books.
[[nodiscard]] inline bool is_noted(const channel_core& core) noexcept {
    return ledger_built_in && core.books != nullptr;
}

/// A pipeline lets what is being delivered fall: its turn came, and it was not served.
inline void let_fall() noexcept {
    innermost()->skip_one();
    if (overseen()) [[unlikely]] {
        looks_on().filtered();
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
