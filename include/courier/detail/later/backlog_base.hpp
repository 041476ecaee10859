// What an outbox knows of the backlogs that wait in it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct outbox_core;

/// What an outbox knows of a backlog.
class backlog_base {
public:
    backlog_base(outbox_core& through, channel_core& to);
    backlog_base(const backlog_base&) = delete;
    backlog_base& operator=(const backlog_base&) = delete;
    virtual ~backlog_base();

    /// Moves everything that waits into the round.
    /// True when something still waits, for the next one.
    virtual bool begin_round() noexcept = 0;

    /// Delivers some of the round, `most` at most; returns how many.
    virtual std::size_t deliver(std::size_t most) = 0;

    /// The round is over for this backlog; what was delivered is destroyed.
    virtual void end_round() noexcept = 0;

    /// How many of the round are left.
    [[nodiscard]] virtual std::size_t left() const noexcept = 0;
    [[nodiscard]] virtual std::size_t waiting() const noexcept = 0;

    /// Forgets everything, its policy as well: nothing is posted any more.
    virtual void drop() noexcept = 0;
    /// Room for one more, so that posting it needs no memory.
    virtual void make_room_for_one() = 0;

    /// Posts a payload that slept until its time, or a copy of it. When there
    /// is no memory for that, `woke` stays false and it sleeps on.
    virtual void wake(std::uint32_t sleeper, bool copy) = 0;
    virtual void forget(std::uint32_t sleeper) noexcept = 0;

    /// Notes what becomes of a post, for the ledger of this thread; the mark is
    /// kept for `place` among those that wait, if that is given.
    void note(const void* payload, const address_label& to, posting_outcome outcome) noexcept;
    void note_at(std::size_t place, const void* payload, const address_label& to, posting_outcome outcome) noexcept;

    [[nodiscard]] const post_mark* marks_from(std::size_t place) const noexcept {
        return place < round_marks.size() ? &round_marks[place] : nullptr;
    }
    /// Calls `publish(where)` with the cause and the line of the post.
    template <class Publish>
    void publish_as_posted(std::size_t place, Publish publish) const {
        const post_mark* const mark = marks_from(place);
        if (mark == nullptr) [[likely]] {
            publish(where);
            return;
        }
        const caused_by now(origin_of(*mark));
        publish(mark->is_set ? mark->where : where);
    }

    std::vector<post_mark> marks;       ///< of those that wait, or of the first few of them
    std::vector<post_mark> round_marks; ///< of those in the round: all, or none
    outbox_core* box;                   ///< its references keep this backlog alive, too
    channel_core* target;               ///< may be nowhere()
    held<channel_core> target_kept;     ///< the same, if it is somewhere
    std::source_location where;         ///< of the newest post
    std::uint32_t users = 0;            ///< posters, inlets and sleepers
    bool queued = false;                ///< something waits
    bool box_closed = false;            ///< as the outbox says; one look less for whoever posts
    bool in_round = false;
    bool busy = false;            ///< code of the user's runs in the middle of a change; see `backlog_of::in_use()`
    bool woke = false;            ///< the newest sleeper has been taken
    bool posts_aside = false;     ///< posts what was laid aside while it was busy
    bool lets_go = false;         ///< when that is over, for those who could not meanwhile
    bool closes = false;          ///< the same for the outbox, which has ended
    std::uint32_t left_users = 0; ///< who gave it up while it was busy
    bool keeps_order = false;     ///< the outbox wants to know of each payload that begins to wait
    bool by_address = false;      ///< the outbox wants what is for one address side by side
    bool implicit = false;        ///< made by outbox::post(), for whoever posts on that channel
    std::size_t gave_way = 0;     ///< of the round's, dropped before it began
    std::uint64_t turned_away = 0;
    std::uint64_t delivered = 0;
    std::uint64_t told_turned_away = 0; ///< as of the newest frame's report
    std::uint64_t told_delivered = 0;
};

/// Notes that something waits in `backlog` from now on.
void queue(backlog_base& backlog) noexcept;
/// Notes one payload's place in the order of all posts; the first may throw, and comes before the payload is taken.
void make_room_in_order(backlog_base& backlog);
void note_in_order(backlog_base& backlog) noexcept;

/// More was posted in the middle of combining than is combined at a time.
void report_restless(const backlog_base& backlog);

/// Of a backlog and its outbox. One that nobody uses goes when it is empty, and
/// not before it is no longer busy.
void retain(backlog_base& backlog) noexcept;
void release(backlog_base& backlog) noexcept;

/// Does what had to wait while the backlog was busy, which may be the end of it.
void let_go_after_use(backlog_base& backlog) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
