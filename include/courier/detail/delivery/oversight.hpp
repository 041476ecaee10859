// What the channels of a thread know of a ledger that is attached to them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/turn.hpp>

#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct channel_core;
class last_reports;
struct ledger_core;
struct party;
struct slot;
class noted_now;

/// How an address or a group is written, where one is at hand.
struct address_label {
    const void* address = nullptr;
    void (*write)(const void* address, std::string& to) = nullptr;
};

/// An event of another program, as the cause of one here.
struct foreign_event {
    std::string_view process;
    std::string_view run;    ///< of that process
    std::uint64_t event = 0; ///< 0: not known
};

/// Where something comes from that does not happen at once.
struct origin {
    std::uint64_t cause = 0;    ///< an event
    std::uint32_t handling = 0; ///< the subscription whose handler it was
    std::uint32_t ledger = 0;   ///< whose numbers these are; void in any other
    bool outside = false;       ///< another thread or program, or what was declared to be
};

/// What is said about a publish besides its payload, for whoever looks on.
struct publish_note {
    const std::string* publisher = nullptr; ///< null: nobody with a name
    address_label to;                       ///< for whom it is; empty: for everyone
};
inline constexpr publish_note nothing_to_say{};

/// What is remembered of a payload that waits in an outbox or for its time.
struct post_mark {
    origin by;
    std::source_location where;
    bool is_set = false;
};

/// Both are looked at in one step.
struct unusual_state {
    bool outside = false; ///< what happens comes from outside, not from an event
    bool acting = false;  ///< a timed call or refresher runs
};

/// What is true right now on this thread. Plain, so that it is read without a
/// guard; all of it is meaningless while `ledger` is null.
struct thread_oversight {
    ledger_core* ledger = nullptr; ///< attached to something on this thread
    std::uint32_t serial = 0;      ///< its number; 0 for none
    std::uint64_t cause = 0;       ///< the event that is being handled
    noted_now* now = nullptr;      ///< the innermost publish with an account
    std::uint32_t handling = 0;    ///< when `cause` is not that of `now`
    unusual_state unusual;
    std::uint64_t frame = 0;              ///< of the ledger
    std::uint64_t carried = 0;            ///< a cause that is handed on, on a thread without a ledger
    const foreign_event* from = nullptr;  ///< what causes that which nothing here causes
    const party* acting = nullptr;        ///< whose timed call or refresher runs; see acting_as
    const noted_now* acting_in = nullptr; ///< what `now` was when it began
    last_reports* last = nullptr;         ///< the ledger's; null without one
};

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit thread_oversight this_oversight;

/// The newest change of a state on this thread.
#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit post_mark newest_change;

/// Whether anything has to be noted on this thread; false when ledgers are compiled out.
[[nodiscard]] inline bool overseen() noexcept {
    if constexpr (ledger_built_in) {
        return this_oversight.ledger != nullptr;
    } else {
        return false;
    }
}

/// The event and the handler that what happens now belongs to.
[[nodiscard]] origin origin_here() noexcept;

/// What happens meanwhile was caused by another event.
class caused_by {
public:
    explicit caused_by(origin by) noexcept
        : before_{this_oversight.cause, this_oversight.handling, this_oversight.serial,
                  this_oversight.unusual.outside} {
        set(by);
    }
    caused_by(const caused_by&) = delete;
    caused_by& operator=(const caused_by&) = delete;
    ~caused_by() { set(before_); }

private:
    static void set(const origin& by) noexcept {
        const bool holds = by.ledger == this_oversight.serial; // another one may have come meanwhile
        this_oversight.cause = holds ? by.cause : 0;
        this_oversight.handling = holds ? by.handling : 0;
        this_oversight.unusual.outside = by.outside;
    }

    origin before_;
};

/// An event of the ledger that this thread has now.
[[nodiscard]] inline origin of_this_ledger(std::uint64_t cause, std::uint32_t handling) noexcept {
    return {cause, handling, this_oversight.serial, this_oversight.unusual.outside};
}

/// Sets one thing for a while.
template <class T>
class meanwhile {
public:
    meanwhile(T& what, T value) noexcept : what_(what), before_(std::exchange(what, value)) {}
    meanwhile(const meanwhile&) = delete;
    meanwhile& operator=(const meanwhile&) = delete;
    ~meanwhile() { what_ = before_; }

private:
    T& what_;
    T before_;
};

/// What is to be the origin while a payload that waited is delivered.
[[nodiscard]] inline origin origin_of(const post_mark& mark) noexcept {
    origin by = mark.is_set ? mark.by : origin_here();
    by.outside = mark.by.outside;
    return by;
}

/// What becomes of a payload that is posted.
enum class posting_outcome : std::uint8_t {
    waits,       ///< for the next round
    combined,    ///< into one that waits already
    turned_away, ///< the bound is reached
};

/// The mark of a payload that goes to sleep until its time.
[[nodiscard]] inline post_mark mark_here(std::source_location where) noexcept {
    return {origin_here(), where, true};
}

/// The event that goes on and its ledger, in one word that may go to another
/// thread; 0 for neither. The event is above the bit for what came from there,
/// the ledger below.
inline constexpr int serial_bits = 20;
inline constexpr std::uint64_t serial_mask = (std::uint64_t{1} << serial_bits) - 1;
[[nodiscard]] inline std::uint64_t packed_cause() noexcept {
    return this_oversight.ledger != nullptr
               ? this_oversight.cause << (serial_bits + 1) | (this_oversight.serial & serial_mask)
               : 0;
}
/// Whether the word names this thread's ledger.
[[nodiscard]] inline bool is_of_this_ledger(std::uint64_t packed) noexcept {
    return this_oversight.ledger != nullptr && (packed & serial_mask) == (this_oversight.serial & serial_mask);
}
/// The event's number, if it is one of this thread's ledger; else 0.
[[nodiscard]] inline std::uint64_t unpacked_cause(std::uint64_t packed) noexcept {
    return is_of_this_ledger(packed) ? packed >> (serial_bits + 1) : 0;
}

/// Set in what came from another thread.
inline constexpr std::uint64_t carried_bit = std::uint64_t{1} << serial_bits;

/// Whether it was sent by this thread, under the ledger that it has now.
[[nodiscard]] inline bool is_from_here(std::uint64_t packed) noexcept {
    return is_of_this_ledger(packed) && (packed & carried_bit) == 0;
}

/// The same for what is sent; on a thread without a ledger, what was handed to it.
[[nodiscard]] inline std::uint64_t sending_cause() noexcept {
    if constexpr (ledger_built_in) {
        return this_oversight.unusual.outside ? 0
               : overseen()                   ? packed_cause()
                            : this_oversight.carried | (this_oversight.carried != 0 ? carried_bit : 0);
    } else {
        return 0;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
