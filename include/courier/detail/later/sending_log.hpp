// What one thread has sent to one inbox, in the order of sending: written by
// that thread, read by the owner of the inbox.
//
// A log is a chain of chunks. Payloads of any size lie in them side by side,
// each behind a head that says which way it goes. One release store of a count
// hands a payload over; everything else in a log is plain memory of one side
// or the other. Chunks that have been read go back to the writer.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/shared.hpp>

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <new>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct inbox_core;
struct inbox_route;

/// In front of each item: which way it goes, and whether the number of its
/// cause lies in between, which it does on threads that have one.
class message_head {
public:
    explicit message_head(inbox_route* route, bool has_cause = false) noexcept
        : word_(reinterpret_cast<std::uintptr_t>(route) | (has_cause ? 1 : 0)) {}

    /// Null: the log goes on in the next chunk.
    [[nodiscard]] inbox_route* route() const noexcept {
        return reinterpret_cast<inbox_route*>(word_ & ~std::uintptr_t{1}); // NOLINT(performance-no-int-to-ptr)
    }
    [[nodiscard]] bool has_cause() const noexcept { return (word_ & 1) != 0; }
    /// 0 is none.
    [[nodiscard]] std::uint64_t cause() noexcept {
        return has_cause() ? *std::launder(reinterpret_cast<std::uint64_t*>(this + 1)) : 0;
    }

private:
    std::uint64_t word_;
};

/// Everything in a log begins at a multiple of this.
inline constexpr std::size_t log_step = 8;
static_assert(sizeof(message_head) == log_step);

/// A piece of a log; its bytes follow it.
struct alignas(16) log_chunk {
    log_chunk* next;
    std::byte* end; ///< of the bytes
    [[nodiscard]] std::byte* begin() noexcept { return reinterpret_cast<std::byte*>(this + 1); }
};

inline constexpr std::size_t cache_line = 64;

/// Where an item lies behind its head, and what comes behind it.
template <class Item>
struct place_in_log {
    static constexpr std::size_t size = (sizeof(Item) + log_step - 1) / log_step * log_step;
    /// As much as it may take, its head counted.
    static constexpr std::size_t bytes =
        sizeof(message_head) + sizeof(std::uint64_t) + (alignof(Item) > log_step ? alignof(Item) - log_step : 0) + size;

    /// `behind` is the end of its head, and of its cause if it has one.
    static std::byte* of(std::byte* behind) noexcept {
        if constexpr (alignof(Item) <= log_step) {
            return behind;
        } else {
            const std::size_t over = reinterpret_cast<std::uintptr_t>(behind) % alignof(Item);
            return over == 0 ? behind : behind + (alignof(Item) - over);
        }
    }
    static std::byte* of(message_head& head) noexcept {
        return of(reinterpret_cast<std::byte*>(&head + 1) + (head.has_cause() ? sizeof(std::uint64_t) : 0));
    }
};

class sending_log {
public:
    sending_log() = default;
    sending_log(const sending_log&) = delete;
    sending_log& operator=(const sending_log&) = delete;
    /// Gives its memory back; what it holds must have been read or discarded.
    ~sending_log();

    // --- the sending thread's ---

    /// Whether there is room for one more of so many bytes, and leave to send it.
    [[nodiscard]] bool takes(std::size_t bytes) const noexcept {
        return leave_ != 0 && bytes <= static_cast<std::size_t>(last_ - write_);
    }
    /// Where the next item goes.
    template <class Item>
    [[nodiscard]] std::byte* place_for(std::uint64_t cause) const noexcept {
        return place_in_log<Item>::of(write_ + sizeof(message_head) + (cause != 0 ? sizeof cause : 0));
    }

    /// Hands over the item that was made in `place_for(cause)` and ends at
    /// `end`. With `waking`, in one order with the owner's going to sleep.
    void hand_over(inbox_route& route, std::uint64_t cause, std::byte* end, bool waking) noexcept {
        ::new (write_) message_head(&route, cause != 0);
        if (cause != 0) [[unlikely]] {
            ::new (write_ + sizeof(message_head)) std::uint64_t(cause);
        }
        write_ = end;
        --leave_;
        const std::uint64_t count = sent_.load(std::memory_order_relaxed) + 1;
        if (waking) [[unlikely]] {
            sent_.store(count, std::memory_order_seq_cst);
        } else {
            sent_.store(count, std::memory_order_release);
        }
    }

    /// While an item is made whose constructor may send as well.
    class making {
    public:
        explicit making(sending_log& log) noexcept : log_(log), leave_(log.leave_) {
            log.leave_ = 0;
            log.making_ = true;
        }
        making(const making&) = delete;
        making& operator=(const making&) = delete;
        ~making() {
            log_.leave_ = leave_;
            log_.making_ = false;
        }

    private:
        sending_log& log_;
        std::size_t leave_;
    };
    [[nodiscard]] bool is_making() const noexcept { return making_; }

    /// Makes room for an item of so many bytes, in another chunk if need be.
    void reserve(std::size_t bytes);

    void grant(std::size_t leave) noexcept { leave_ += leave; }
    [[nodiscard]] std::size_t leave() const noexcept { return leave_; }

    /// Nothing more comes; the owner, or the end of the inbox, deletes this.
    void writer_ends() noexcept { writer_gone_.store(true, std::memory_order_release); }
    /// For one payload only: nobody will say that it ends.
    void for_one_only() noexcept { single_ = true; }

    // --- the reader's ---

    /// Where the next head is; only while something is `expected()`.
    message_head* read_at() noexcept {
        auto* head = std::launder(reinterpret_cast<message_head*>(read_));
        if (head->route() == nullptr) [[unlikely]] {
            next_chunk();
            head = std::launder(reinterpret_cast<message_head*>(read_));
        }
        return head;
    }
    /// The item behind that head, which ends there, is read; whoever reads it
    /// destroys it in its place.
    void read_to(std::byte* end) noexcept {
        read_ = end;
        ++taken_;
    }

    /// Reads what comes next, as long as it goes this way and `most` are not
    /// reached; returns how many. `take` copies an item and calls nobody.
    template <class Item, class Take>
    std::size_t read_run(const inbox_route& route, std::size_t most, Take take) {
        std::size_t count = 0;
        while (count < most) {
            const std::size_t before = count;
            auto* at = reinterpret_cast<std::byte*>(read_at());
            message_head* head = std::launder(reinterpret_cast<message_head*>(at));
            while (count < most && head->route() == &route) {
                std::byte* const item = place_in_log<Item>::of(*head);
                take(*std::launder(reinterpret_cast<const Item*>(item)));
                at = item + place_in_log<Item>::size;
                ++count;
                if (count == most) {
                    break; // nothing may be behind it
                }
                head = std::launder(reinterpret_cast<message_head*>(at));
            }
            read_ = at;
            if (count == before) {
                break;
            }
        }
        taken_ += count;
        return count;
    }

    /// Looks how far the writer has come; how many are to be read.
    std::uint64_t measure() noexcept;
    [[nodiscard]] std::uint64_t expected() const noexcept { return goal_ - taken_; }
    [[nodiscard]] std::uint64_t waiting() const noexcept { return sent_.load(std::memory_order_acquire) - taken_; }
    /// As measured: all has been read, and nothing more comes.
    [[nodiscard]] bool is_over() const noexcept { return over_ && goal_ == taken_; }

    /// Reading is for one at a time: the owner, or the writer of an inbox that
    /// has ended.
    [[nodiscard]] bool begin_reading() noexcept { return !read_now_.exchange(true, std::memory_order_acquire); }
    void end_reading() noexcept { read_now_.store(false, std::memory_order_release); }

    sending_log* next = nullptr;        ///< in the owner's ring
    sending_log* next_active = nullptr; ///< among those that have something to be read

private:
    void next_chunk() noexcept;
    log_chunk* take_spare(std::size_t bytes) noexcept;

    // The writer's.
    std::byte* write_ = nullptr;
    std::byte* last_ = nullptr; ///< what a chunk holds ends here, so that a head always fits behind it
    std::size_t leave_ = 0;     ///< how many may be sent without asking
    log_chunk* writing_ = nullptr;
    log_chunk* spare_ = nullptr;
    std::size_t next_bytes_ = 1024 - sizeof(log_chunk);
    bool making_ = false;
    bool single_ = false;
    // Both look at these; apart from what only one does, so that the other is not kept.
    alignas(cache_line) std::atomic<std::uint64_t> sent_{0};
    std::atomic<bool> writer_gone_{false};

    // The reader's.
    alignas(cache_line) std::byte* read_ = nullptr;
    log_chunk* reading_ = nullptr;
    std::uint64_t taken_ = 0;
    std::uint64_t goal_ = 0;
    bool over_ = false;
    std::atomic<bool> read_now_{false};
    std::atomic<log_chunk*> given_back_{nullptr};
};

/// This thread's log in an inbox that was used lately.
struct log_at_hand {
    std::uint64_t inbox = 0; ///< its number; none has 0, and none is used twice
    sending_log* log = nullptr;
};

inline constexpr std::size_t logs_at_hand = 4;

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit log_at_hand own_logs_at_hand[logs_at_hand];

/// This thread's log in that inbox if it is known here, else null.
[[nodiscard]] inline sending_log* log_here(std::uint64_t inbox) noexcept {
    const log_at_hand& place = own_logs_at_hand[inbox % logs_at_hand];
    return place.inbox == inbox ? place.log : nullptr;
}

/// The same by a longer look; null if this thread has none.
[[nodiscard]] sending_log* find_log(std::uint64_t inbox) noexcept;

/// Whether this thread has ended but for destructors of thread_local objects.
[[nodiscard]] bool thread_ends() noexcept;

/// Makes a log: this thread's, which ends with it, or one for a single payload.
/// `grant` payloads may be sent, and the first has so many bytes.
sending_log& make_log(const shared<inbox_core>& core, std::size_t grant, std::size_t bytes, bool for_one);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
