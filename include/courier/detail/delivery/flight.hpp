// Publishes in flight: what is known of each while its handlers run.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/channel_core.hpp>

#include <cstddef>
#include <cstdint>
#include <exception>
#include <new>
#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One publish in flight, or whatever else runs code of the user's as one does.
/// Without initialisers, since the hot path sets what it needs and nothing
/// twice: one that is over has left everything unset again.
class flight {
public:
    flight() noexcept = default;
    struct nothing_set {};
    constexpr explicit flight(nothing_set) noexcept
        : channel_(nullptr), happened_(0), first_(nullptr), outer_(nullptr), ruled_by_(nullptr), depth_(0), error_{} {}
    flight(const flight&) = delete;
    flight& operator=(const flight&) = delete;

    /// The outermost one begins.
    void begin(channel_core& on) noexcept { channel_ = &on; }
    /// One that a handler of `outer` makes.
    void begin(channel_core& on, flight& outer, std::source_location where) noexcept {
        channel_ = &on;
        happened_ = 0;
        where_ = where;
        outer_ = &outer;
        depth_ = outer.depth_ + 1;
    }
    void end() noexcept { channel_ = nullptr; }
    [[nodiscard]] bool is_under_way() const noexcept { return channel_ != nullptr; }

    [[nodiscard]] channel_core& channel() const noexcept { return *channel_; }
    /// The publish whose handler made this one, or null.
    [[nodiscard]] flight* outer() const noexcept { return outer_; }
    /// Publishes around this one.
    [[nodiscard]] std::uint32_t depth() const noexcept { return depth_; }
    /// Of the publish; not kept for the outermost one, where it would show.
    [[nodiscard]] const std::source_location& where() const noexcept { return where_; }

    /// The array that is walked from now on; its list may outgrow it meanwhile.
    void walks(const entry* first) noexcept { first_ = first; }
    /// Which of them `at` is.
    [[nodiscard]] std::size_t index_of(const entry* at) const noexcept { return static_cast<std::size_t>(at - first_); }

    /// Nothing but calling handlers happened.
    [[nodiscard]] bool is_usual() const noexcept { return happened_ == 0; }
    /// Neither a verdict nor the end of the channel keeps the next one from being served.
    [[nodiscard]] bool goes_on() const noexcept { return (happened_ & (stopped | closed)) == 0; }

    /// Somebody's turn came who was not to be called.
    void skip_one() noexcept { ++happened_; }
    /// That happened, and nothing else.
    [[nodiscard]] bool has_only_skipped() const noexcept { return (happened_ >> 32) == 0; }
    [[nodiscard]] std::uint32_t skipped() const noexcept { return static_cast<std::uint32_t>(happened_); }

    void rule(verdict ruling, slot& by) noexcept {
        if (!is_ruled()) {
            ruled_by_ = &by;
        }
        happened_ |= ruling == verdict::stop ? stopped : stage_finished;
    }
    /// By either verdict.
    [[nodiscard]] bool is_ruled() const noexcept { return (happened_ & (stopped | stage_finished)) != 0; }
    [[nodiscard]] bool is_stopped() const noexcept { return (happened_ & stopped) != 0; }
    /// Whose verdict came first; with a verdict only.
    [[nodiscard]] slot& ruled_by() const noexcept { return *ruled_by_; }

    /// The channel ended.
    void close() noexcept { happened_ |= closed; }
    [[nodiscard]] bool is_closed() const noexcept { return (happened_ & closed) != 0; }

    /// The outermost publish on its channel has memory to free.
    void ask_clean_up() noexcept { happened_ |= clean_up; }
    /// Whether it has; once.
    [[nodiscard]] bool takes_clean_up() noexcept {
        return (std::exchange(happened_, happened_ & ~std::uint64_t{clean_up}) & clean_up) != 0;
    }
    /// The same, when nothing else happened but skipping.
    [[nodiscard]] bool takes_only_clean_up() noexcept { return happened_ >> 32 == clean_up >> 32 && takes_clean_up(); }

    /// Whoever looks on has more to do at the end than is usual.
    void ask_onlooker() noexcept { happened_ |= for_onlooker; }

    /// A publish inside of this one was nested too deeply.
    void note_refusal() noexcept { happened_ |= refused_inside; }
    [[nodiscard]] bool has_refused() const noexcept { return (happened_ & refused_inside) != 0; }

    /// Something was put off until this one, the outermost, is over.
    void ask_for_more() noexcept { happened_ |= more_to_do; }
    [[nodiscard]] bool has_more_to_do() const noexcept { return (happened_ & more_to_do) != 0; }

#if WIRED_COURIER_EXCEPTIONS
    /// In a catch clause.
    void keep_first_failure() noexcept {
        if ((happened_ & failed) == 0) {
            ::new (error_) std::exception_ptr(std::current_exception());
            happened_ |= failed;
        }
    }
    /// What was kept; null when nothing was.
    [[nodiscard]] std::exception_ptr take_failure() noexcept {
        if ((happened_ & failed) == 0) {
            return nullptr;
        }
        std::exception_ptr& kept = *std::launder(reinterpret_cast<std::exception_ptr*>(error_));
        std::exception_ptr first = std::move(kept);
        kept.~exception_ptr(); // NOLINT(bugprone-use-after-move): its memory is used again
        happened_ &= ~std::uint64_t{failed};
        return first;
    }
#endif
    /// Forgets what happened.
    void settle() noexcept { happened_ = 0; }

private:
    // One word, so that one look tells that nothing happened: what did above,
    // how many were skipped below.
    enum flag : std::uint64_t {
        stopped = std::uint64_t{1} << 32,        ///< a verdict: nobody after this handler
        stage_finished = std::uint64_t{1} << 33, ///< a verdict: no later stage
        closed = std::uint64_t{1} << 34,
        clean_up = std::uint64_t{1} << 35,
        failed = std::uint64_t{1} << 36, ///< `error_` holds the first exception
        for_onlooker = std::uint64_t{1} << 37,
        more_to_do = std::uint64_t{1} << 38,
        refused_inside = std::uint64_t{1} << 39,
    };

    channel_core* channel_;
    std::uint64_t happened_;
    const entry* first_; // not beside the channel: the compiler would store both as one vector, which takes longer
    std::source_location where_;
    flight* outer_;
    slot* ruled_by_;
    std::uint32_t depth_;
    // Room for a std::exception_ptr. Raw, so that this needs no destructor.
    [[maybe_unused]] alignas(std::exception_ptr) std::byte error_[sizeof(std::exception_ptr)];
};

/// A publish that no handler made lies at a fixed place: there is one at most.
/// Setting it up takes two stores.
struct thread_flights {
    flight outermost{flight::nothing_set{}};
    flight* nested = nullptr;       ///< the innermost one when there is more than one
    std::uint32_t turn_changes = 0; ///< subscriptions that were ended in a publish on their channel, or paused
};

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit thread_flights this_thread;

/// The innermost publish in flight on this thread, or null.
inline flight* innermost() noexcept {
    if (this_thread.nested != nullptr) {
        return this_thread.nested;
    }
    return this_thread.outermost.is_under_way() ? &this_thread.outermost : nullptr;
}

/// The outermost publish in flight on `core`, or null.
inline flight* outermost_on(const channel_core& core) noexcept {
    flight* found = nullptr;
    for (flight* f = innermost(); f != nullptr; f = f->outer()) {
        if (&f->channel() == &core) {
            found = f;
        }
    }
    return found;
}

/// What the loop runs in place of a handler that must not be called.
void skip(void* state, const void* payload);

/// The handler whose turn it is is not called after all; `why` it says itself,
/// unless it was paused or ended meanwhile.
void miss(turn why) noexcept;

/// What the loop runs for a subscription with a guard; `state` is its slot.
void run_guarded(void* state, const void* payload);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
