// Waits for the next payload.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/detail/flow/sequence_core.hpp>
#include <courier/detail/flow/source_held.hpp>
#include <courier/detail/flow/temporary.hpp>

#include <functional>
#include <optional>
#include <source_location>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// What a payload arrives at.
template <class Payload>
class arrival_place : public wait_base {
public:
    virtual void arrived(const Payload& payload) = 0;

protected:
    arrival_place() = default;
    arrival_place(const arrival_place&) = default;
    ~arrival_place() = default;
};

/// The handler; it may stay after its wait, for the next one.
template <class Payload>
struct arrival : arrival_base {
    explicit arrival(arrival_place<Payload>* place) noexcept : arrival_base{place} {}
    void operator()(const Payload& payload) {
        if (armed != nullptr) [[likely]] {
            static_cast<arrival_place<Payload>*>(armed)->arrived(payload);
        } else {
            miss(turn::condition);
        }
    }
};

template <class Source>
consteval void can_wait_for_retained() {
    static_assert(std::is_copy_constructible_v<typename Source::payload_type>,
                  "courier: a retained payload is copied for the wait, so it must be copyable; of a state, "
                  "read the value, or wait until() it is as wanted");
}

/// Functions in a pipeline that is made on the spot are temporaries, too.
template <class Source>
consteval void check_source() {
    if constexpr (pipeline_like<std::remove_cvref_t<Source>>) {
        check_temporary<Source>();
    }
}

struct any_payload {
    template <class Payload>
    constexpr bool operator()(const Payload&) const noexcept {
        return true;
    }
};

template <class Source, class Test>
class next_wait final : public arrival_place<typename Source::payload_type> {
public:
    using payload = typename Source::payload_type;
    using result_type = const payload&;
    /// Its subscription can serve the next wait: all of one channel are alike.
    static constexpr bool parks = std::is_base_of_v<channel<payload>, Source>;

    next_wait(const Source& source, Test test, bool retained, std::source_location where)
        : source_(source), test_(std::move(test)), where_(where), retained_(retained) {}
    next_wait(next_wait&& other) // before it has begun
        : source_(std::move(other.source_)), test_(std::move(other.test_)), where_(other.where_),
          retained_(other.retained_) {}

    bool begin(waiter& told) {
        waiter_ = &told;
        if (!take_parked()) {
            in_ = free_place();
            *in_ = access::own<subscription>(attach());
        }
        if (slot* const s = retained_ ? access::slot_of(*in_) : nullptr; s != nullptr) {
            serve_current_of(source_.get(), s, where_);
        }
        return false;
    }
    const payload& result() const noexcept { return *payload_; }
    void keep() override {
        if constexpr (std::copy_constructible<payload>) {
            kept_.emplace(*payload_);
            payload_ = &*kept_;
        }
    }
    void end() noexcept { put_away(); }
    ~next_wait() {
        if (in_ != nullptr) {
            put_away();
        }
    }

    void arrived(const payload& what) override {
        if (waiter_->of->is_paused() || !passes(what)) {
            miss(turn::condition);
            return;
        }
        payload_ = &what;
        has_come_ = true;
        put_away();
        waiter_->done(*waiter_);
    }
    [[nodiscard]] bool is_source_gone() const override {
        return !has_come_ && (in_ == nullptr || access::slot_of(*in_) == nullptr);
    }
    [[nodiscard]] const channel_core* awaited() const override {
        const slot* const s = in_ != nullptr ? access::slot_of(*in_) : nullptr;
        return s != nullptr ? s->list->core : nullptr;
    }
    [[nodiscard]] std::string describe() const override {
        const slot* const s = in_ != nullptr ? access::slot_of(*in_) : nullptr;
        return s != nullptr ? "the next of '" + s->list->core->name + "'"
               : has_come_  ? "one that has come"
                            : "the next of a channel that is gone";
    }

private:
    slot* attach() {
        arrival<payload> handler(this);
        if constexpr (parks) {
            return access::attach_ops(source_.get(), &ops_of<arrival<payload>, payload>, &handler, ordinary, where_,
                                      waiter_->of->whose());
        } else {
            delivery_options<payload> options;
            return access::attach(source_.get(), handler, options, where_, waiter_->of->whose());
        }
    }
    // The subscription of an earlier wait for the same.
    bool take_parked() noexcept {
        if constexpr (parks) {
            if (waiter_->of->idle == 0) {
                return false;
            }
            const channel_core* const core = access::core(source_.get());
            for (subscription& one : waiter_->of->parked) {
                if (slot* const s = access::slot_of(one);
                    s != nullptr && s->list->core == core && s->ops == &ops_of<arrival<payload>, payload>) {
                    if (arrival_base& at = *static_cast<arrival_base*>(state_of(*s)); at.armed == nullptr) {
                        in_ = &one;
                        --waiter_->of->idle;
                        at.armed = static_cast<arrival_place<payload>*>(this);
                        return true;
                    }
                }
            }
        }
        return false;
    }
    subscription* free_place() noexcept {
        if constexpr (parks) {
            for (subscription& place : waiter_->of->parked) {
                if (!place.live()) {
                    return &place;
                }
            }
        }
        return &own_;
    }

    // False also when the test has ended this wait.
    bool passes(const payload& what) {
        if constexpr (std::is_same_v<Test, any_payload> || std::is_member_object_pointer_v<Test>) {
            return static_cast<bool>(std::invoke(test_, what)); // a data member: held by nobody, it runs nothing
        } else {
            held_sequence now(*waiter_->of);
            const bool holds = static_cast<bool>(std::invoke(test_, what));
            return now.let_go() && holds && in_ != nullptr;
        }
    }

    // Nothing arrives any more. A parked subscription stays until it is known whether
    // the next wait is for the same.
    void put_away() noexcept {
        if (in_ == nullptr) {
            return;
        }
        if (in_ == &own_) {
            own_.end();
        } else if (slot* const s = access::slot_of(*in_); s != nullptr) {
            static_cast<arrival_base*>(state_of(*s))->armed = nullptr;
            ++waiter_->of->idle;
        }
        in_ = nullptr;
    }

    source_held<Source> source_;
    [[no_unique_address]] Test test_;
    std::source_location where_;
    bool retained_;
    bool has_come_ = false;
    waiter* waiter_ = nullptr;
    const payload* payload_ = nullptr;
    subscription* in_ = nullptr; ///< the sequence's, or the following
    subscription own_;
    std::optional<std::conditional_t<std::copy_constructible<payload>, payload, char>> kept_;
};

} // namespace detail

/// Written as `{.retained = true}`.
struct next_options {
    /// Whether what the source keeps already is enough (`channel::retain_latest()`):
    /// then the wait is over at once. For what may have happened before: several
    /// loads of which some are through, a phase that may have begun. Of a state,
    /// read the value, or wait `until()` it is as wanted.
    bool retained = false;
};

/// Waits for the next payload of `source`: a channel, an address of one
/// (`bitten.at(3)`), a state or formula (its changes), a pipeline. `co_await`
/// gives it by const reference, good until the next wait; `auto` copies it.
///
///     auto hail = co_await courier::next(harbour.hailed());
template <class Source>
auto next(Source&& source, std::source_location where = std::source_location::current()) {
    using own = std::remove_cvref_t<Source>;
    detail::check_source<Source>();
    return detail::next_wait<own, detail::any_payload>(source, {}, false, where);
}
template <class Source>
auto next(Source&& source, next_options options, std::source_location where = std::source_location::current()) {
    using own = std::remove_cvref_t<Source>;
    detail::check_source<Source>();
    detail::can_wait_for_retained<own>();
    return detail::next_wait<own, detail::any_payload>(source, {}, options.retained, where);
}

/// Waits for the next one that passes `test`, a predicate or a data member.
template <class Source, class Test>
    requires std::is_invocable_v<std::decay_t<Test>&, const typename std::remove_cvref_t<Source>::payload_type&>
auto next(Source&& source, Test&& test, std::source_location where = std::source_location::current()) {
    using own = std::remove_cvref_t<Source>;
    detail::check_source<Source>();
    detail::check_temporary<Test>();
    return detail::next_wait<own, std::decay_t<Test>>(source, std::forward<Test>(test), false, where);
}
template <class Source, class Test>
    requires std::is_invocable_v<std::decay_t<Test>&, const typename std::remove_cvref_t<Source>::payload_type&>
auto next(Source&& source, Test&& test, next_options options,
          std::source_location where = std::source_location::current()) {
    using own = std::remove_cvref_t<Source>;
    detail::check_source<Source>();
    detail::check_temporary<Test>();
    detail::can_wait_for_retained<own>();
    return detail::next_wait<own, std::decay_t<Test>>(source, std::forward<Test>(test), options.retained, where);
}

WIRED_COURIER_NAMESPACE_END
