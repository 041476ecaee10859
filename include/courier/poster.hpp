// A right to post on one channel through an outbox.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/forward.hpp>
#include <courier/detail/later/aimed_backlog.hpp>
#include <courier/detail/later/backlog_user.hpp>
#include <courier/detail/later/outbox_core.hpp>
#include <courier/posting_options.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <span>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// Whether a `Target&` lets code publish on it.
template <class Target, class Payload>
inline constexpr bool may_post = !std::is_const_v<Target> || !std::is_base_of_v<channel<Payload>, Target>;

/// A new backlog for a poster, which says how its payloads wait.
template <class Backlog, class Payload, class Target, class... Aim>
backlog_user backlog_for_poster(outbox& through, Target& target, posting_options<Payload>&& how,
                                std::source_location where, const Aim&... aim) {
    static_assert(
        may_post<Target, typename Target::payload_type>,
        "courier: a const channel can be subscribed to only; to post, hold the channel itself or a publisher");
    static_assert(std::is_same_v<typename Target::payload_type, Payload>,
                  "courier: this poster's target carries another payload type");
    outbox_core& box = *core_of(through);
    auto made = make_owned<Backlog>(box, *access::core(target), std::move(how), aim...);
    made->where = where;
    if constexpr (checked_build) {
        check_backlog(*made, "given a poster", where);
    }
    return backlog_user(enter_backlog(box, std::move(made), false));
}

/// What both kinds of poster are.
template <class Backlog>
class poster_of {
public:
    poster_of() noexcept = default;

    /// How many wait.
    [[nodiscard]] std::size_t waiting() const noexcept {
        return backlog_.get() != nullptr ? backlog_.get()->waiting() : 0;
    }
    /// How many were turned away or dropped so far.
    [[nodiscard]] std::uint64_t turned_away() const noexcept {
        return backlog_.get() != nullptr ? backlog_.get()->turned_away : 0;
    }
    /// Whether there is an outbox on the way and a channel at the end.
    [[nodiscard]] bool connected() const noexcept { return backlog_.open(); }

protected:
    explicit poster_of(backlog_user backlog) noexcept : backlog_(std::move(backlog)) {}

    /// The backlog, if what is posted there from `where` can arrive.
    Backlog* begin(std::source_location where) const {
        if (!backlog_.open()) {
            return nullptr;
        }
        if constexpr (checked_build) {
            check_backlog(*backlog_.get(), "posted to", where);
        }
        backlog_.get()->where = where;
        return static_cast<Backlog*>(backlog_.get());
    }

private:
    friend struct access;
    backlog_user backlog_;
};

} // namespace detail

/// Posts payloads on one channel through an outbox, which delivers them later.
/// How they wait is said once, here. Posting takes no allocation once the
/// outbox has held as many.
///
///     courier::poster<BargeMoved> moved{later, barges_moved, {.keep = courier::keep::one}};
///     moved.post({.barge = 3, .to_go = 12});
///
/// Copyable. Outbox and channel may end first; posting then does nothing and
/// returns false. Belongs to their thread.
template <class Payload>
class poster : public detail::poster_of<detail::plain_backlog<Payload>> {
public:
    using payload_type = Payload;

    /// Not connected.
    poster() noexcept = default;

    /// `target` is the channel or a publisher on it.
    template <class Target>
    poster(outbox& through, Target& target, posting_options<Payload> how = {},
           std::source_location where = std::source_location::current())
        : base(detail::backlog_for_poster<detail::plain_backlog<Payload>>(through, target, std::move(how), where)) {}

    /// For one address of `target`, or for a group: a payload goes to the members that the group has at delivery, and
    /// to nobody once the group has ended.
    ///
    ///     courier::poster<BargeBitten> to_convoy{later, bitten, convoy};
    template <class Target, detail::an_aim_of<typename Target::address_type> To>
    poster(outbox& through, Target& target, const To& to, posting_options<Payload> how = {},
           std::source_location where = std::source_location::current())
        : base(detail::backlog_for_poster<aimed_at<Target, To>>(through, target, std::move(how), where,
                                                                aim<Target, To>(to))) {}

    /// Takes the payload for the next round; false when it is turned away (the
    /// bound is reached) or either end is gone.
    bool post(Payload payload, std::source_location where = std::source_location::current()) const {
        backlog* const to = this->begin(where);
        return to != nullptr && to->post(std::move(payload));
    }

    /// Takes a copy of each, in their order; how many were taken. If the copy of one throws, those before it wait.
    std::size_t post_all(std::span<const Payload> all,
                         std::source_location where = std::source_location::current()) const {
        backlog* const to = this->begin(where);
        return to != nullptr ? to->post_all(all) : 0;
    }

private:
    using base = detail::poster_of<detail::plain_backlog<Payload>>;
    using backlog = detail::plain_backlog<Payload>;
    template <class Target, class To>
    using aim = detail::aim_for<To, typename Target::address_type>;
    template <class Target, class To>
    using aimed_at = detail::aimed_backlog<Payload, aim<Target, To>>;
};

WIRED_COURIER_NAMESPACE_END
