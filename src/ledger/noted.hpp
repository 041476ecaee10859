// What is done for a ledger; called only where one is attached.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/ledger/ledger_core.hpp>

#include <cstddef>
#include <cstdint>
#include <memory>
#include <source_location>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The subscription's note, or null.
[[nodiscard]] inline subscription_note* note_of(const slot& s) noexcept {
    return s.list->notes != nullptr ? s.list->notes[s.index] : nullptr;
}

[[nodiscard]] inline noted_handler noted_handler_of(const subscription_note& note) noexcept {
    return {note.site, note.party};
}
/// Its site is UINT32_MAX when it has no note.
[[nodiscard]] inline noted_handler noted_handler_of(const slot& s) noexcept {
    const subscription_note* const note = note_of(s);
    return note != nullptr ? noted_handler_of(*note) : noted_handler{UINT32_MAX, 0};
}

/// What is known of a publish on a channel with an account, while it goes on.
class noted_now {
public:
    /// Whose turn it is; null between turns, and when it has ended and is gone.
    [[nodiscard]] slot* serving() const noexcept;
    /// The same while it is called, gone or not.
    [[nodiscard]] slot* called() const noexcept;
    /// The handler that is being served was not, or only seemingly.
    void missed(turn why) noexcept;
    /// Whether it takes spans, and this is the walk of one payload of a batch: its
    /// turns are taken, and counted, once all of those are over.
    [[nodiscard]] bool is_for_later(const slot& s) const noexcept;
    /// Some handler of this publish published or posted on a channel.
    void told_on(std::uint32_t channel) noexcept;

    [[nodiscard]] std::uint64_t id() const noexcept { return id_; }
    [[nodiscard]] ledger_core& ledger() const noexcept { return *ledger_; }
    [[nodiscard]] channel_core& core() const noexcept { return *core_; }

    noted_now* outer;
    flight* in;
    const entry* at = nullptr;        ///< whose turn it is, in an array that is walked plainly
    const stage_list* list = nullptr; ///< the list of that
    slot* turn_of = nullptr;          ///< whose turn it is otherwise
    const slot* ended = nullptr;      ///< the newest that ended in its own turn, and its number
    std::uint32_t ended_number = 0;
    std::uint64_t walk = 0; ///< which of its channel's walks it is; 0: none that counts

protected:
    noted_now(ledger_core& ledger, noted_now* around, flight* now) noexcept
        : outer(around), in(now), ledger_(&ledger) {}
    ~noted_now() = default;

    void begin(channel_core& core) noexcept {
        list = &core.base;
        core_ = &core;
        id_ = ++ledger_->newest_id;
    }

    channel_core* core_ = nullptr; ///< may be gone at the end
    ledger_core* ledger_;
    std::uint64_t id_ = 0;
    turn why_ = turn::served;
    bool is_full_ = false; ///< a `noted_publish`

private:
    /// Whether a subscription has had its note since before this turn; it may
    /// have been taken out of the books and put in again meanwhile.
    [[nodiscard]] bool counts_for(const subscription_note& note) const noexcept;
};

/// An outermost publish with nothing to note but what every one has. There is
/// one at a time, so that a ledger keeps one, in which little has to be set.
class plain_noted final : public noted_now {
public:
    explicit plain_noted(ledger_core& ledger) noexcept : noted_now(ledger, nullptr, &this_thread.outermost) {}

    void begin(channel_core& core) noexcept {
        noted_now::begin(core);
        walk = ++core.walks;
    }
};

/// The same with all that there may be to note, from its beginning to its end,
/// whatever its handlers throw.
class noted_publish : public noted_now {
public:
    noted_publish(channel_core& core, const void* payload, std::source_location where, const publish_note& note,
                  bool is_retained = false);
    noted_publish(const noted_publish&) = delete;
    noted_publish& operator=(const noted_publish&) = delete;
    ~noted_publish();

    // The observer of a walk; see delivery/walk.hpp.
    static constexpr bool looks_on = true;
    void walk_begins(flight& f) noexcept;
    std::size_t serve_stage(flight& f, stage_list& of, std::uint32_t count, const void* payload);
    void passed_over(const flight& f, const stage_list& of, std::uint32_t count) noexcept;
    void turns_begin(flight& f) noexcept { in = &f; }
    void serve(flight& f, slot& s, const entry& hot, const void* payload);
    void passed_over(const flight& f, slot& s) noexcept;
    void walk_ends(const flight& f) noexcept;

    receipt ended(receipt r) noexcept {
        flags_ = receipts::flags_of(r);
        served_ = r.served();
        return r;
    }

    /// Whether each turn is worth a closer look.
    [[nodiscard]] bool careful() const noexcept { return is_timed_ || is_recorded_ || ledger_->order_seed != 0; }

private:
    friend class noted_now;
    void call(flight& f, slot& s, const entry& hot, const void* payload);
    struct told {
        std::uint32_t channel;
        const slot* by;
        noted_handler note;
    };

    void look_closer(const channel_core& core, const void* payload, const address_label& to);
    void note_told(std::uint32_t channel, const slot& by);
    void count_flags(code_site& site) noexcept;
    [[nodiscard]] event_facts facts() const noexcept;
    void record() noexcept;

    account& account_;
    origin before_;
    origin caused_;
    std::uint32_t site_;
    bool is_timed_ = false;
    bool is_recorded_ = false;
    bool is_retained_;
    bool found_slow_ = false;
    std::uint32_t flags_ = 0;
    std::uint32_t served_ = 0;
    std::uint32_t stopped_by_ = 0;
    std::uint32_t turn_number_ = 0; ///< of whoever is served
    std::size_t first_turn_ = 0;
    std::uint64_t clock_ = 0;                 ///< when the newest timed turn ended
    std::size_t first_begun_ = 0;             ///< of those who have taken its beginning
    std::string to_;                          ///< the address; a handler may destroy what holds it
    std::unique_ptr<std::vector<told>> told_; ///< while shaken only
};

/// As `deliver()` and so on, with everything noted.
receipt deliver_noted(channel_core& core, const void* payload, std::source_location where, const publish_note& note);
receipt deliver_at_noted(channel_core& core, const address_cell& at, const void* payload, std::source_location where,
                         const publish_note& note);
receipt deliver_parts_noted(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                            std::source_location where, const publish_note& note, bool vacant);
void deliver_to_one_noted(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                          std::source_location where);

void note_missed_turn(turn why) noexcept;
void note_filtered() noexcept;
void note_missed_span(slot& s, turn why, std::size_t count) noexcept;
void serve_span_noted(slot& s, const void* first, std::size_t count);
[[nodiscard]] origin noted_origin() noexcept;

void note_attached(slot& s, const attach_request& request) noexcept;
void note_detached(slot& s) noexcept;
void note_blocked(slot& s, bool was_blocked) noexcept;
void note_opened(channel_core& core) noexcept;
void note_closed(channel_core& core) noexcept;
void note_party_end(const party& gone) noexcept;
post_mark note_post(channel_core& target, const std::string& outbox, const void* payload, std::source_location where,
                    const address_label& to, posting_outcome outcome) noexcept;
void note_module_end() noexcept;

/// The clock, ns.
[[nodiscard]] std::uint64_t clock_now() noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
