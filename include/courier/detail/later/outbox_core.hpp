// An outbox without the types of what it holds; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/forward.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/later/addressed_backlog.hpp>
#include <courier/detail/later/backlog.hpp>
#include <courier/detail/later/plain_backlog.hpp>
#include <courier/detail/later/waiting_places.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class errand_desk;
class posting_order;

struct outbox_core {
    std::uint32_t refs = 1; ///< the outbox, posters, timetables and inboxes
    std::uint32_t thread;
    bool closed = false;
    bool by_address = false; ///< sorts what is for addresses
    bool delivering = false;
    bool sweeps = false; ///< looks for backlogs of channels that are gone when this round is over
    std::string name;
    std::uint64_t rounds = 0;
    std::uint64_t delivered = 0; ///< payloads, in all
    std::vector<owned<backlog_base>> backlogs;
    std::vector<backlog_base*> ready; ///< something waits, in the order in which it began to
    std::vector<backlog_base*> round; ///< what is left of the round under way
    std::size_t next_in_round = 0;
    std::uint32_t walks = 0;              ///< through `backlogs`, in whose middle none is removed
    owned<struct target_index> by_target; ///< implicit backlogs; its type costs every includer
    owned<posting_order> order;           ///< of posts on all channels, if it is kept
    backlog_base* newest = nullptr;       ///< the implicit backlog that was used last
    errand_desk* errands = nullptr;       ///< while open, once needed; owned

    waiting_place place; ///< known to ledgers

    outbox_core(std::string_view outbox_name, bool keeps_order);
    outbox_core(const outbox_core&) = delete;
    outbox_core& operator=(const outbox_core&) = delete;
    ~outbox_core();

    [[nodiscard]] std::size_t waiting() const noexcept;
    static waiting_place::contents look_into(const void* outbox);

    /// Whether a round is under way, or was left when its budget was spent.
    [[nodiscard]] bool is_in_round() const noexcept { return next_in_round != round.size(); }
};

outbox_core* open_outbox(std::string_view name, bool keeps_order, bool by_address);
void close_outbox(outbox_core& box) noexcept;

/// The backlog that posts without a poster go through, or null.
backlog_base* find_implicit(outbox_core& box, const channel_core& target) noexcept;
backlog_base& enter_backlog(outbox_core& box, owned<backlog_base> backlog, bool implicit);

void check_thread(const outbox_core& box, const char* what, std::source_location where);

/// An outbox' own backlog to a channel.
template <class Backlog, class Payload, class Channel>
Backlog& backlog_for(outbox_core& box, Channel& on, std::source_location where) {
    channel_core& target = *access::core(on);
    if constexpr (checked_build) {
        check_thread(box, "posted to", where);
        check_use(target, "posted to", where);
    }
    backlog_base* backlog = find_implicit(box, target);
    if (backlog == nullptr) {
        backlog = &enter_backlog(box, make_owned<Backlog>(box, target, posting_options<Payload>{}), true);
    }
    backlog->where = where;
    return static_cast<Backlog&>(*backlog);
}

/// Raises `wrong_thread` for a backlog's outbox or its channel. Called in checked builds only.
void check_backlog(const backlog_base& backlog, const char* what, std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
