// A sequence without the type of what it returns, and what it waits for.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/subscription.hpp>

#include <array>
#include <concepts>
#include <coroutine>
#include <cstddef>
#include <cstdint>
#include <exception>
#include <source_location>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class sequence_core;

/// Who is told when a wait is over.
struct waiter {
    void (*done)(waiter& self);
    sequence_core* of; ///< the sequence that waits, somewhere above
};

/// Anything that can be waited for. Lies still from `begin()` on. Derived
/// classes have
///   result_type           what `co_await` gives
///   bool begin(waiter&)   true: it is over already, and the waiter is not told
///   result_type result()  once it is over
///   void end() noexcept   nothing is waited for any more
class wait_base {
public:
    wait_base() = default;
    wait_base(const wait_base&) = default;
    wait_base& operator=(const wait_base&) = delete;

    /// For people: what is waited for.
    [[nodiscard]] virtual std::string describe() const = 0;

    /// Whether it can never be over, and the channel it is for, if it is one.
    [[nodiscard]] virtual bool is_source_gone() const { return false; }
    [[nodiscard]] virtual const channel_core* awaited() const { return nullptr; }

    /// It is over, but what the result refers to may go: take a copy.
    virtual void keep() {}

protected:
    ~wait_base() = default;
};

template <class T>
concept waitable = std::derived_from<std::remove_cvref_t<T>, wait_base>;

/// What a parked subscription's handler consists of.
struct arrival_base {
    void* armed; ///< the wait it serves; null: none
};

/// The part of a coroutine's promise that all sequences share.
class sequence_core {
public:
    sequence_core() noexcept = default;
    sequence_core(const sequence_core&) = delete;
    sequence_core& operator=(const sequence_core&) = delete;

    /// Runs it to its next wait, or to its end. Throws what the outermost
    /// sequence of a subscriber let out; others keep that for who waits for them.
    void resume();

    /// What it waits for is over: goes on, now or as soon as that may be.
    void wake() {
        if (may_go_on()) [[likely]] {
            resume();
        } else {
            wake_later();
        }
    }

    /// Its owner is gone. Destroyed at once, or when it comes to its next wait.
    void end() noexcept;

    /// Whether it, or one that waits for it, has lost its owner.
    [[nodiscard]] bool is_ended() const noexcept;
    [[nodiscard]] bool is_paused() const noexcept { return root->paused; }
    [[nodiscard]] bool is_finished() const noexcept { return finished; }

    /// Gives up the subscriptions that were kept for the next wait, and are not wanted.
    void unpark() noexcept {
        if (idle == 0) {
            return;
        }
        idle = 0;
        for (subscription& one : parked) {
            if (slot* const s = access::slot_of(one);
                s != nullptr && static_cast<arrival_base*>(state_of(*s))->armed == nullptr) {
                detach(*s);
            }
        }
    }

    std::coroutine_handle<> handle;
    sequence_core* root = this;      ///< the outermost, which a subscriber owns
    sequence_core* above = nullptr;  ///< the one that waits for this one
    waiter* to_tell = nullptr;       ///< when this one is over
    slot* anchor = nullptr;          ///< of the outermost only
    wait_base* waiting = nullptr;    ///< what it waits for
    std::source_location waiting_at; ///< where it does
    std::exception_ptr failed;
    std::array<subscription, 2> parked; ///< of waits, or of those that are over, since the next may want the same
    sequence_core* next = nullptr;      ///< of this thread's outermost ones
    sequence_core** back = nullptr;     ///< what points to this one among them
    sequence_core* next_due = nullptr;  ///< of those that are due
    sequence_core** back_due = nullptr;
    origin due_by;                   ///< what made it due
    std::uint64_t waiting_since = 0; ///< frame of the thread's ledger; of the outermost only

    /// Whose what it subscribes is: its own, for whoever started it.
    [[nodiscard]] ownership whose() const noexcept {
        return ownership::held_for(root->anchor != nullptr ? root->anchor->owner : nullptr);
    }
    std::uint32_t below = 0; ///< sequences that this one waits for, directly or not, that are running
    bool running = false;
    bool finished = false;
    bool ended = false;
    bool due = false;      ///< goes on as soon as it may
    bool paused = false;   ///< its anchor is; of the outermost only
    std::uint8_t idle = 0; ///< parked subscriptions of waits that are over

protected:
    ~sequence_core();

private:
    [[nodiscard]] bool may_go_on() const noexcept {
        return below == 0 && !running && !is_paused() && (above == nullptr || !is_ended());
    }
    friend class held_sequence;
    void wake_later();
    static void wake_those_above(sequence_core* first);
    friend void go_on_sequences();
};

/// While code of the user's runs in a wait, such as a test or a payload's copy:
/// whatever that ends, the frame that the wait lies in stays.
class held_sequence {
public:
    explicit held_sequence(sequence_core& of) noexcept : of_(&of) {
        for (sequence_core* c = of_; c != nullptr; c = c->above) {
            ++c->below;
        }
    }
    held_sequence(const held_sequence&) = delete;
    held_sequence& operator=(const held_sequence&) = delete;
    ~held_sequence(); ///< when something was thrown
    /// Once it is over; false when the wait is, too, and perhaps gone.
    [[nodiscard]] bool let_go();

private:
    sequence_core* of_;
};

/// Those that became due while they were paused, and no longer are.
void go_on_sequences();

/// Begins the outermost sequence of all: hangs it on a slot that `owner` has.
slot* anchor_sequence(sequence_core& core, std::source_location where, party* owner);

/// Runs a new one to its first wait; null does nothing.
void begin_sequence(slot* anchor);

/// What `co_await` makes of a wait.
template <class Wait>
class awaiting final : public waiter {
public:
    template <class Given>
    awaiting(sequence_core& core, Given&& wait, std::source_location where)
        : waiter{&is_done, &core}, wait_(std::forward<Given>(wait)), where_(where) {}
    awaiting(const awaiting&) = delete;
    awaiting& operator=(const awaiting&) = delete;
    /// Also when the sequence ends, or beginning threw: all that is waited for
    /// ends before the first of it is destroyed.
    ~awaiting() {
        if (of->waiting == &wait_) {
            of->waiting = nullptr;
            wait_.end();
        }
    }

    [[nodiscard]] bool await_ready() const noexcept { return false; }
    bool await_suspend(std::coroutine_handle<>) {
        if ((of->ended || of->above != nullptr) && of->is_ended()) {
            return true; // never to be resumed
        }
        of->waiting = &wait_;
        of->waiting_at = where_;
        beginning_ = true;
        const bool over = begin();
        beginning_ = false;
        of->unpark();
        return !over && !over_;
    }
    decltype(auto) await_resume() {
        of->waiting = nullptr;
        return wait_.result();
    }

private:
    bool begin() {
        if (!overseen()) [[likely]] {
            return wait_.begin(*this);
        }
        of->root->waiting_since = this_oversight.frame;
        return wait_.begin(*this);
    }
    static void is_done(waiter& self) {
        auto& own = static_cast<awaiting&>(self);
        if (own.beginning_) {
            own.over_ = true;
            own.wait_.keep();
        } else {
            own.of->wake();
        }
    }

    Wait wait_;
    std::source_location where_;
    bool beginning_ = false;
    bool over_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
