// What the channels of a thread know of a ledger that is attached to them.
#pragma once

#include <courier/config.hpp>
#include <courier/turn.hpp>

#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

struct channel_core;
struct ledger_core;
struct party;
struct slot;
class noted_now;

/// How an address or a group is written, where one is at hand.
struct address_label {
    const void* address = nullptr;
    void (*write)(const void* address, std::string& to) = nullptr;
};

/// Where something comes from that does not happen at once.
struct origin {
    std::uint64_t cause = 0;    ///< an event of this thread's ledger
    std::uint32_t handling = 0; ///< the subscription whose handler it was
};

/// What is remembered of a payload that waits in an outbox or for its time.
struct post_mark {
    origin by;
    std::source_location where;
    bool outside = false; ///< it came from another thread, or was declared to
    bool is_set = false;
};

/// What is true right now on this thread. Plain, so that it is read without a
/// guard; all of it is meaningless while `ledger` is null.
struct thread_oversight {
    ledger_core* ledger = nullptr;          ///< attached to something on this thread
    std::uint64_t cause = 0;                ///< the event whose handling goes on
    noted_now* now = nullptr;               ///< the innermost publish with an account
    std::uint32_t handling = 0;             ///< when `cause` is not that of `now`
    std::uint64_t frame = 0;                ///< of the ledger
    std::uint64_t carried = 0;              ///< a cause that is handed on, on a thread without a ledger
    bool outside = false;                   ///< what is published or posted comes from outside
    bool gate_closed = false;               ///< why a guard did not hold
    const std::string* publisher = nullptr; ///< who is about to publish
    const party* on_behalf = nullptr;       ///< who gets the subscription that is about to be made
    address_label to;                       ///< for whom what is about to be published is
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
    explicit caused_by(origin by) noexcept : before_{this_oversight.cause, this_oversight.handling} {
        this_oversight.cause = by.cause;
        this_oversight.handling = by.handling;
    }
    caused_by(const caused_by&) = delete;
    caused_by& operator=(const caused_by&) = delete;
    ~caused_by() {
        this_oversight.cause = before_.cause;
        this_oversight.handling = before_.handling;
    }

private:
    origin before_;
};

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

/// While a payload that waited is delivered.
class as_marked {
public:
    explicit as_marked(const post_mark& mark) noexcept
        : by_(mark.is_set ? mark.by : origin_here()), outside_(this_oversight.outside, mark.outside) {}

private:
    caused_by by_;
    meanwhile<bool> outside_;
};

/// A pipeline lets what is being delivered fall.
void note_filtered() noexcept;
/// The handler that is being served was passed over.
void note_skipped() noexcept;
inline void let_fall() noexcept {
    if (overseen()) [[unlikely]] {
        note_filtered();
    }
}

/// What becomes of a payload that is posted.
enum class posting_outcome : std::uint8_t {
    waits,       ///< for the next round
    merged,      ///< into one that waits already
    turned_away, ///< the bound is reached
};

/// Notes a post; the mark is for the payload, should it wait.
post_mark note_post(channel_core& target, const std::string& outbox, const void* payload, std::source_location where,
                    posting_outcome outcome);

/// The mark of a payload that goes to sleep until its time.
post_mark note_sleep(std::source_location where) noexcept;

/// The event that goes on and its ledger, in one word that may go to another
/// thread; 0 for neither.
[[nodiscard]] std::uint64_t packed_cause() noexcept;
/// The event's number, if it is one of this thread's ledger; else 0.
[[nodiscard]] std::uint64_t unpacked_cause(std::uint64_t packed) noexcept;
/// Whether it was sent by this thread, under the ledger that it has now.
[[nodiscard]] bool is_from_here(std::uint64_t packed) noexcept;

/// Set in what came from another thread.
inline constexpr std::uint64_t carried_bit = std::uint64_t{1} << 20;

/// The same for what is sent; on a thread without a ledger, what was handed to it.
[[nodiscard]] inline std::uint64_t sending_cause() noexcept {
    if constexpr (ledger_built_in) {
        return this_oversight.outside ? 0
               : overseen()           ? packed_cause()
                                      : this_oversight.carried | (this_oversight.carried != 0 ? carried_bit : 0);
    } else {
        return 0;
    }
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
