// What is done for a ledger; called only where one is attached.
#pragma once

#include <courier/detail/frame.hpp>
#include <courier/detail/ledger_core.hpp>

#include <cstddef>
#include <cstdint>
#include <memory>
#include <source_location>
#include <string>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// Whether a ledger has this channel's books.
[[nodiscard]] inline bool is_noted(const channel_core& core) noexcept {
    return ledger_built_in && core.books != nullptr;
}

/// The subscription's note, or null.
[[nodiscard]] inline subscription_note* note_of(const slot& s) noexcept {
    return s.list->notes != nullptr ? s.list->notes[s.index] : nullptr;
}

/// The line of code that made the subscription, in the ledger's list; UINT32_MAX when it has no note.
[[nodiscard]] inline std::uint32_t site_of(const slot& s) noexcept {
    const subscription_note* const note = note_of(s);
    return note != nullptr ? note->site : UINT32_MAX;
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
    /// Some handler of this publish published or posted on a channel.
    void told_on(std::uint32_t channel);

    [[nodiscard]] std::uint64_t id() const noexcept { return id_; }
    [[nodiscard]] ledger_core& ledger() const noexcept { return *ledger_; }
    [[nodiscard]] channel_core& core() const noexcept { return *core_; }

    noted_now* outer;
    frame* in = nullptr;
    const entry* at = nullptr; ///< whose turn it is, in an array that is walked plainly
    slot* turn_of = nullptr;   ///< whose turn it is otherwise
    std::uint64_t walk = 0;    ///< which of its channel's walks it is; 0: none that counts

    std::uint32_t fell = 0; ///< turns that count as served, and were let fall

protected:
    friend receipt deliver_noted(channel_core& core, const void* payload, std::source_location where);
    noted_now(channel_core& core, ledger_core& ledger, std::uint64_t id, noted_now* around) noexcept
        : outer(around), core_(&core), ledger_(&ledger), id_(id) {} // few stores: each publish makes one
    ~noted_now() = default;

    channel_core* core_; ///< may be gone at the end
    ledger_core* ledger_;
    std::uint64_t id_;
    turn why_ = turn::served;
    bool is_full_ = false; ///< a `noted_publish`
};

/// The same with all that there may be to note, from its beginning to its end,
/// whatever its handlers throw.
class noted_publish : public noted_now {
public:
    noted_publish(channel_core& core, const void* payload, std::source_location where, bool is_retained = false);
    noted_publish(const noted_publish&) = delete;
    noted_publish& operator=(const noted_publish&) = delete;
    ~noted_publish();

    /// Calls one handler, and notes all that there is to note.
    void serve(frame& f, slot& s, const entry& hot, const void* payload);
    /// A verdict ended the walk, or will.
    void ruled(frame& f) noexcept;
    receipt ended(receipt r) noexcept {
        flags_ = r.flags();
        served_ = r.served();
        return r;
    }

    /// Whether each turn is worth a closer look.
    [[nodiscard]] bool careful() const noexcept { return is_timed_ || is_recorded_ || ledger_->shake != 0; }

private:
    friend class noted_now;
    struct told {
        std::uint32_t channel;
        const slot* by;
        std::uint32_t site;
    };

    void look_closer(const channel_core& core, const void* payload);
    void count_flags(code_site& site) noexcept;
    void record();

    account& account_;
    origin before_;
    origin caused_;
    std::uint32_t site_;
    bool is_timed_ = false;
    bool is_recorded_ = false;
    bool is_retained_;
    bool outside_ = false;
    bool found_slow_ = false;
    std::uint32_t flags_ = 0;
    std::uint32_t served_ = 0;
    std::uint32_t stopped_by_ = 0;
    std::size_t first_turn_ = 0;
    std::uint64_t clock_ = 0; ///< when the newest timed turn ended
    const std::string* publisher_ = nullptr;
    std::uint64_t told_to_ = 0;               ///< which of the ledger's sinks
    std::size_t kept_ = 0;                    ///< the payload, as that keeps it
    std::string to_;                          ///< the address; a handler may destroy what holds it
    std::unique_ptr<std::vector<told>> told_; ///< while shaken only
};

/// As `deliver()` and so on, with everything noted.
receipt deliver_noted(channel_core& core, const void* payload, std::source_location where);
receipt deliver_parts_noted(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                            std::source_location where, bool vacant);
void deliver_to_one_noted(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                          std::source_location where);

/// A handler that takes spans was called, and took so long.
void note_span(slot& s, std::uint64_t took) noexcept;

void note_attached(slot& s);
void note_detached(slot& s) noexcept;
void note_blocked(slot& s, bool was_blocked) noexcept;
void note_opened(channel_core& core);
void note_closed(channel_core& core) noexcept;
void note_party_end(const party& gone) noexcept;

/// The clock, ns.
[[nodiscard]] std::uint64_t clock_now() noexcept;

} // namespace courier::inline WIRED_COURIER_ABI::detail
