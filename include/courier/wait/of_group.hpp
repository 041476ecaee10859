// Waits for the members of a group.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/flow/several_waits.hpp>
#include <courier/detail/flow/temporary.hpp>
#include <courier/group.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class Member, class Wait>
class group_wait final : public wait_base {
public:
    using wait_type = Wait;
    using result_type = std::vector<kept_result<Wait>>;

    group_wait(const group<Member>& of, std::vector<Member>&& members, std::vector<Wait>&& waits, bool all,
               std::source_location where)
        : group_(&of), members_(std::move(members)), waits_(std::move(waits)), places_(waits_.size()), all_(all),
          where_(where) {}
    group_wait(group_wait&&) = default;
    ~group_wait() = default;

    bool begin(waiter& told) {
        waiter_ = &told;
        beginning_ = true;
        is_over_ = waits_.empty();
        if (!is_over_) {
            auto left = [this](const group_left<Member>& gone) { has_left(gone.member); };
            delivery_options<group_left<Member>> options;
            left_ =
                access::own<subscription>(access::attach(group_->left(), left, options, where_, waiter_->of->whose()));
        }
        for (std::size_t i = 0; i < waits_.size() && !is_over_; ++i) {
            places_[i] = place{{&is_done, told.of}, this, i};
            if (!group_->has(members_[i])) {
                let_go(i);
            } else if (waits_[i].begin(places_[i])) {
                note(i);
            }
        }
        beginning_ = false;
        return is_over_;
    }
    [[nodiscard]] bool has_any() const noexcept { return !waits_.empty(); }
    [[nodiscard]] const Member& winning_member() const noexcept { return members_[winner_]; }
    result_type result() {
        result_type all;
        for (std::size_t i = 0; i < waits_.size(); ++i) {
            if (places_[i].is == standing::over) {
                all.push_back(take_result(waits_[i]));
            }
        }
        return all;
    }
    kept_result<Wait> winners_result() { return take_result(waits_[winner_]); }
    void keep() override {
        if (!all_ && !waits_.empty()) {
            waits_[winner_].keep();
        }
    }
    void end() noexcept {
        is_over_ = true;
        left_.end();
        for (std::size_t i = 0; i < waits_.size(); ++i) {
            if (places_[i].is == standing::pending) {
                waits_[i].end();
            }
        }
    }
    /// For all: one that cannot be over is enough. For any: all of them, or nobody is left.
    [[nodiscard]] bool is_source_gone() const override {
        std::size_t gone = 0;
        std::size_t pending = 0;
        each_pending([&](const Wait& wait) {
            ++pending;
            gone += wait.is_source_gone() ? 1U : 0U;
        });
        return all_ ? gone != 0 : gone == pending;
    }
    [[nodiscard]] const channel_core* awaited() const override {
        const channel_core* first = nullptr;
        bool all = true;
        each_pending([&](const Wait& wait) {
            const channel_core* const one = wait.awaited();
            all = all && is_unused(one);
            first = first == nullptr || (is_unused(one) && !is_unused(first)) ? one : first;
        });
        return all || all_ ? first : nullptr;
    }
    [[nodiscard]] std::string describe() const override {
        std::size_t pending = 0;
        std::string such;
        each_pending([&](const Wait& wait) { such = pending++ == 0 ? wait.describe() : such; });
        return (all_ ? "all of " : "any of ") + std::to_string(waits_.size()) + " members, " + std::to_string(pending) +
               " of them to come" + (such.empty() ? "" : ", such as " + such);
    }

private:
    enum class standing : std::uint8_t { pending, over, left };
    struct place : waiter {
        group_wait* own = nullptr;
        std::size_t which = 0;
        standing is = standing::pending;
    };

    template <class Do>
    void each_pending(Do what) const {
        for (std::size_t i = 0; i < waits_.size(); ++i) {
            if (places_[i].is == standing::pending) {
                what(waits_[i]);
            }
        }
    }

    static void is_done(waiter& self) {
        const place& at = static_cast<place&>(self);
        group_wait& own = *at.own;
        if (own.is_over_) {
            return;
        }
        const std::size_t which = at.which;
        held_sequence now(*own.waiter_->of); // the retained payload is copied, which may end it
        own.note(which);
        if (own.beginning_) {
            own.waits_[which].keep();
        }
        own.go_on_if_over(now);
    }
    void has_left(const Member& gone) {
        held_sequence now(*waiter_->of); // what a wait holds may do anything when it ends
        for (std::size_t i = 0; i < members_.size() && !is_over_; ++i) {
            if (places_[i].is == standing::pending && address_equal{}(members_[i], gone)) {
                waits_[i].end();
                let_go(i);
                break;
            }
        }
        go_on_if_over(now);
    }
    void go_on_if_over(held_sequence& now) {
        if (now.let_go() && is_over_ && !beginning_) {
            end();
            waiter_->done(*waiter_);
        }
    }
    void note(std::size_t which) {
        places_[which].is = standing::over;
        if (all_) {
            waits_[which].keep(); // until the last one is over
            is_over_ = ++count_ == waits_.size();
        } else {
            winner_ = which;
            is_over_ = true;
        }
    }
    // A former member is not waited for.
    void let_go(std::size_t which) {
        places_[which].is = standing::left;
        is_over_ = is_over_ || (++count_ == waits_.size() && all_ && !is_level_ending());
    }

    const group<Member>* group_;
    std::vector<Member> members_;
    std::vector<Wait> waits_;
    std::vector<place> places_;
    bool all_;
    std::source_location where_;
    subscription left_;
    std::size_t count_ = 0;
    std::size_t winner_ = 0;
    waiter* waiter_ = nullptr;
    bool beginning_ = false;
    bool is_over_ = false;
};

/// Says as well which member it was.
template <class Member, class Wait>
class any_in_wait final : public wait_base {
public:
    using result_type = std::pair<Member, kept_result<Wait>>;

    explicit any_in_wait(group_wait<Member, Wait>&& waits) : waits_(std::move(waits)) {}
    any_in_wait(any_in_wait&&) = default;
    ~any_in_wait() = default;

    bool begin(waiter& told) {
        return waits_.begin(told) && waits_.has_any(); // of nobody, none is ever first
    }
    result_type result() { return {waits_.winning_member(), waits_.winners_result()}; }
    void keep() override { waits_.keep(); }
    void end() noexcept { waits_.end(); }
    [[nodiscard]] bool is_source_gone() const override { return waits_.is_source_gone(); }
    [[nodiscard]] const channel_core* awaited() const override { return waits_.awaited(); }
    [[nodiscard]] std::string describe() const override { return waits_.describe(); }

private:
    group_wait<Member, Wait> waits_;
};

template <class Member, class WaitFor>
auto wait_for_members(const group<Member>& who, WaitFor& wait_for, bool all, std::source_location where) {
    using wait = std::invoke_result_t<WaitFor&, const Member&>;
    std::vector<Member> members = who.members();
    std::vector<wait> waits;
    waits.reserve(members.size());
    for (const Member& member : members) {
        waits.push_back(wait_for(member));
    }
    return group_wait<Member, wait>(who, std::move(members), std::move(waits), all, where);
}

} // namespace detail

/// Waits for all who are members now: for what `wait_for(member)` returns, for
/// each of them. A member that leaves is not waited for any more. Gives a
/// `std::vector` of the results, without members that left, in the order of
/// joining. Over at once for an empty group, and when the last of those that
/// were waited for leaves, unless it leaves because its level ends; then it is never
/// over. The group must outlive the wait, or nobody leaves it any more.
///
///     co_await courier::all_in(crew, [&](int hand) { return courier::next(stood_to.at(hand)); });
template <class Member, class WaitFor>
auto all_in(const group<Member>& who, WaitFor&& wait_for,
            std::source_location where = std::source_location::current()) {
    detail::check_temporary<WaitFor>();
    return detail::wait_for_members(who, wait_for, true, where);
}

/// Waits for the first of the present members; the other waits end, as
/// does that for a member who leaves. Gives a `std::pair` of the member and the
/// result. Of a group that is empty, or that all of them have left, none is
/// ever first.
template <class Member, class WaitFor>
auto any_in(const group<Member>& who, WaitFor&& wait_for,
            std::source_location where = std::source_location::current()) {
    detail::check_temporary<WaitFor>();
    auto waits = detail::wait_for_members(who, wait_for, false, where);
    return detail::any_in_wait<Member, typename decltype(waits)::wait_type>(std::move(waits));
}

WIRED_COURIER_NAMESPACE_END
