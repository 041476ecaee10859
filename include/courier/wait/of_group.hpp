// Waits for the members of a group.
#pragma once

#include <courier/detail/flow/several_waits.hpp>
#include <courier/group.hpp>

#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class Wait>
class group_wait final : public wait_base {
public:
    using result_type = std::vector<kept_result<Wait>>;

    group_wait(std::vector<Wait>&& waits, bool all) : waits_(std::move(waits)), places_(waits_.size()), all_(all) {}
    group_wait(group_wait&&) = default;
    ~group_wait() = default;

    bool begin(waiter& told) {
        waiter_ = &told;
        beginning_ = true;
        is_over_ = waits_.empty();
        for (std::size_t i = 0; i < waits_.size() && !is_over_; ++i) {
            places_[i] = place{{&is_done, told.of}, this, i};
            if (waits_[i].begin(places_[i])) {
                note(i);
            }
        }
        beginning_ = false;
        return is_over_;
    }
    [[nodiscard]] std::size_t winner() const noexcept { return winner_; }
    result_type result() {
        result_type all;
        for (Wait& wait : waits_) {
            all.push_back(take_result(wait));
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
        for (std::size_t i = 0; i < waits_.size(); ++i) {
            if (!is_over_ || (!all_ && i != winner_)) {
                waits_[i].end();
            }
        }
    }
    [[nodiscard]] std::string describe() const override {
        return (all_ ? "all of " : "any of ") + std::to_string(waits_.size()) + " members" +
               (waits_.empty() ? "" : ", such as " + waits_.front().describe());
    }

private:
    struct place : waiter {
        group_wait* own = nullptr;
        std::size_t which = 0;
    };

    static void is_done(waiter& self) {
        const place& at = static_cast<place&>(self);
        group_wait& own = *at.own;
        if (own.is_over_) {
            return;
        }
        held_sequence now(*own.waiter_->of); // what is kept is copied, which may end it
        own.note(at.which);
        if (own.beginning_) {
            own.waits_[at.which].keep();
        }
        if (!now.let_go()) {
            return;
        }
        if (own.is_over_ && !own.beginning_) {
            own.end();
            own.waiter_->done(*own.waiter_);
        }
    }
    void note(std::size_t which) {
        if (all_) {
            waits_[which].keep(); // until the last one is over
            is_over_ = ++count_ == waits_.size();
        } else {
            winner_ = which;
            is_over_ = true;
        }
    }

    std::vector<Wait> waits_;
    std::vector<place> places_;
    bool all_;
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

    any_in_wait(std::vector<Member>&& members, std::vector<Wait>&& waits)
        : members_(std::move(members)), waits_(std::move(waits), false) {}
    any_in_wait(any_in_wait&&) = default;
    ~any_in_wait() = default;

    bool begin(waiter& told) {
        return waits_.begin(told) && !members_.empty(); // of nobody, none is ever first
    }
    result_type result() { return {members_[waits_.winner()], waits_.winners_result()}; }
    void keep() override { waits_.keep(); }
    void end() noexcept { waits_.end(); }
    [[nodiscard]] std::string describe() const override { return waits_.describe(); }

private:
    std::vector<Member> members_;
    group_wait<Wait> waits_;
};

} // namespace detail

/// Waits for all who are members now: for what `wait_for(member)` returns, for
/// each of them. Gives a `std::vector` of the results in the order of joining.
/// Over at once for an empty group.
///
///     co_await courier::all_in(crew, [&](int hand) { return courier::next(stood_to.at(hand)); });
template <class Member, class WaitFor>
auto all_in(const group<Member>& who, WaitFor wait_for) {
    using wait = std::invoke_result_t<WaitFor&, const Member&>;
    std::vector<wait> waits;
    for (const Member& member : who.members()) {
        waits.push_back(wait_for(member));
    }
    return detail::group_wait<wait>(std::move(waits), true);
}

/// Waits for the first of those who are members now; the other waits end. Gives
/// a `std::pair` of the member and the result. Of an empty group none is ever first.
template <class Member, class WaitFor>
auto any_in(const group<Member>& who, WaitFor wait_for) {
    using wait = std::invoke_result_t<WaitFor&, const Member&>;
    std::vector<Member> members;
    std::vector<wait> waits;
    for (const Member& member : who.members()) {
        members.push_back(member);
        waits.push_back(wait_for(member));
    }
    return detail::any_in_wait<Member, wait>(std::move(members), std::move(waits));
}

WIRED_COURIER_NAMESPACE_END
