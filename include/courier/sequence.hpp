// Stories that wait for one thing and then another.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/recycled.hpp>
#include <courier/detail/flow/sequence_core.hpp>
#include <courier/subscriber.hpp>

#include <coroutine>
#include <cstddef>
#include <exception>
#include <optional>
#include <source_location>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class Result>
struct sequence_promise;

template <class Result>
struct sequence_promise_base : sequence_core {
    sequence<Result> get_return_object() noexcept;
    std::suspend_always initial_suspend() noexcept { return {}; }
    std::suspend_always final_suspend() noexcept {
        finished = true;
        waiting = nullptr;
        unpark();
        return {};
    }
    void unhandled_exception() noexcept {
#if WIRED_COURIER_EXCEPTIONS
        failed = std::current_exception();
#endif
    }

    template <class Wait>
        requires waitable<Wait>
    auto await_transform(Wait&& wait, std::source_location where = std::source_location::current()) {
        return awaiting<std::remove_cvref_t<Wait>>(*this, std::forward<Wait>(wait), where);
    }
    template <class Other>
        requires(!waitable<Other>)
    std::suspend_never await_transform(Other&&) {
        static_assert(!std::same_as<Other, Other>, "courier: co_await takes a wait: next(channel), elapsed(clock, 2s), "
                                                   "until(state), when_any(...), or another sequence");
        return {};
    }

    static void* operator new(std::size_t size) { // NOLINT(misc-new-delete-overloads): it has one
        return take_block(size);
    }
    static void operator delete(void* frame, std::size_t size) noexcept { give_block(frame, size); }
};

template <class Result>
struct sequence_promise : sequence_promise_base<Result> {
    std::optional<Result> result;
    template <class Value>
    void return_value(Value&& value) {
        result.emplace(std::forward<Value>(value));
    }
};

template <>
struct sequence_promise<void> : sequence_promise_base<void> {
    void return_void() noexcept {}
};

} // namespace detail

/// A coroutine that waits for payloads, times and states, and is owned: by the
/// subscriber that starts it, or by the sequence that waits for it. It ends
/// with its owner: what it holds is destroyed, in order, and it is never
/// resumed after that.
///
///     courier::sequence<> opening_watch(Tower& tower, courier::timetable& clock) {
///         co_await courier::next(tower.dusk());
///         tower.light_lamp();
///         if (!co_await courier::within(clock, 5s, courier::next(tower.lamp_lit()))) {
///             tower.send_a_hand();
///         }
///     }
///     in.start(opening_watch(tower, clock));
///
/// It goes on where what it waits for happens: in the middle of that publish,
/// as a handler would, or in a round of the timetable's outbox. Until it waits
/// again it hears of nothing (`courier::arrivals` collects meanwhile). It may
/// end itself, its subscriber or any channel. A wait whose source is gone is
/// never over; give it a time limit.
///
/// The operand of `co_await` is one of courier/wait/, or another sequence, whose result
/// `co_await` gives. An exception that it does not catch goes to the sequence
/// that waits for it, or else is thrown where it was resumed, as a handler's.
///
/// Mind that a coroutine's reference parameters, and the captures of a lambda
/// that is one, must outlive it. Their memory comes from a pool of the thread. Belongs
/// to one thread. A sequence that is never started does nothing.
template <class Result = void>
class [[nodiscard(
    "courier: a sequence does nothing until a subscriber starts it, or another one waits for it")]] sequence final
    : public detail::wait_base {
public:
    using promise_type = detail::sequence_promise<Result>;
    using result_type = Result;

    /// Takes over what the other one has, which then has nothing.
    sequence(sequence&& other) noexcept : detail::wait_base(other), handle_(std::exchange(other.handle_, nullptr)) {}
    sequence(const sequence&) = delete;
    sequence& operator=(const sequence&) = delete;
    ~sequence() { end(); }

    /// As all waits have; used by `co_await` and by other waits.
    bool begin(detail::waiter& told) {
        detail::sequence_core& core = handle_.promise();
        core.above = told.of;
        core.root = told.of->root;
        core.resume();
        if (core.is_finished()) {
            return true;
        }
        core.to_tell = &told;
        return false;
    }
    /// What it returned; throws what it threw. For `co_await`.
    Result result() {
        promise_type& promise = handle_.promise();
#if WIRED_COURIER_EXCEPTIONS
        if (promise.failed) {
            std::rethrow_exception(std::move(promise.failed));
        }
#endif
        if constexpr (!std::is_void_v<Result>) {
            return std::move(*promise.result);
        }
    }
    /// Ends it as its subscriber would.
    void end() noexcept {
        if (handle_ != nullptr) {
            std::exchange(handle_, nullptr).promise().end();
        }
    }
    /// Of the wait that it is at.
    [[nodiscard]] bool is_source_gone() const override {
        return handle_ != nullptr && handle_.promise().waiting != nullptr &&
               handle_.promise().waiting->is_source_gone();
    }
    /// Of the wait that it is at.
    [[nodiscard]] const detail::channel_core* awaited() const override {
        return handle_ != nullptr && handle_.promise().waiting != nullptr ? handle_.promise().waiting->awaited()
                                                                          : nullptr;
    }
    /// Of the wait that it is at.
    [[nodiscard]] std::string describe() const override {
        if (handle_ == nullptr || handle_.promise().waiting == nullptr) {
            return "a sequence";
        }
        return handle_.promise().waiting->describe();
    }

private:
    template <class>
    friend struct detail::sequence_promise_base;
    friend class subscriber;

    explicit sequence(std::coroutine_handle<promise_type> handle) noexcept : handle_(handle) {
        handle.promise().handle = handle;
    }

    std::coroutine_handle<promise_type> handle_;
};

template <class Result>
sequence<Result> detail::sequence_promise_base<Result>::get_return_object() noexcept {
    return sequence<Result>(
        std::coroutine_handle<sequence_promise<Result>>::from_promise(static_cast<sequence_promise<Result>&>(*this)));
}

inline subscription_key subscriber::start(sequence<void>&& what, std::source_location where) {
    if (what.handle_ == nullptr) {
        return {}; // moved from
    }
    detail::sequence_core& core = std::exchange(what.handle_, nullptr).promise();
    detail::slot* const anchor = detail::anchor_sequence(core, where, party_);
    const subscription_key key{anchor};
    detail::begin_sequence(anchor);
    return key;
}

/// One sequence that a subscriber owns, for people and reports.
struct sequence_report {
    std::source_location started_at;
    std::string subscriber;
    std::source_location waits_at; ///< the `co_await`
    std::string waits_for;
    bool paused;
    bool source_gone = false;                      ///< what it waits for is gone
    std::string channel;                           ///< that it waits for, if it is one and there
    std::uint64_t since_frame = 0;                 ///< of the thread's ledger; 0 without one
    std::optional<std::uint64_t> ended_frame = {}; ///< in which its owner ended it; empty: it is there
};

/// All of the calling thread that have not ended, in the order in which they were started.
[[nodiscard]] std::vector<sequence_report> list_sequences();

WIRED_COURIER_NAMESPACE_END
