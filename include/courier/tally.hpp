// Knows who must report, and announces when all have.
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/roll.hpp>
#include <courier/group.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <initializer_list>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// What became of one report.
enum class report_mark : std::uint8_t {
    counted,    ///< the member's first one of this round
    again,      ///< it had reported in this round already
    unexpected, ///< it is no member
};

enum class tally_change : std::uint8_t { reported, expected, withdrawn };

/// What `tally::progress()` carries.
template <class Member>
struct tally_progress {
    Member member; ///< whose report, coming or going it was
    tally_change change;
    std::size_t reported;
    std::size_t expected;
};

/// What `tally::at_least()` carries.
struct tally_reached {
    std::size_t reported;
    std::size_t expected;
};

/// What `tally::completed()` carries.
struct tally_completed {
    std::size_t reported; ///< all that were expected
    std::uint32_t round;  ///< 1 for the first one
};

/// Expects reports from members and announces how far things are: progress at
/// every change, a threshold when so many have reported, completion when all
/// have. Each threshold and the completion come once a round.
///
///     courier::tally<int> ready{"crew.ready", {1, 2, 3}};
///     ready.reports_from(crew.stood_to(), [](const StoodTo& s) { return s.hand; });
///     in.subscribe(ready.completed(), [this] { cast_off(); });
///
/// Members may be given at the start, join and leave while it runs
/// (`expect()`, `withdraw()`), or be those of a group (`expect_group()`). A
/// member that leaves is not waited for: with it goes its report, and the round
/// is complete if all that remain have reported. A round without any report is
/// never complete. Who joins a round that is complete is counted in it, and
/// waited for in the next.
///
/// Progress is announced first, then thresholds, the lowest first, then
/// completion. Belongs to one thread; every member may be called from a
/// handler, and a handler may destroy the tally. Can be neither copied nor
/// moved. A member is any type that can be an address.
template <class Member>
class tally {
public:
    /// `name` is for messages and reports and is copied.
    explicit tally(std::string_view name = {}, std::initializer_list<Member> members = {})
        : name_(name), progress_(name_ + ".progress"), completed_(name_ + ".completed"), in_(name) {
        for (const Member& member : members) {
            expect(member);
        }
    }
    tally(const tally&) = delete;
    tally& operator=(const tally&) = delete;

    [[nodiscard]] std::string_view name() const noexcept { return name_; }

    /// One member more, who has not reported; false when it is one already.
    bool expect(const Member& member) {
        if (members_.find(member) != nullptr) {
            return false;
        }
        members_.add(member, false);
        announce(Member(member), tally_change::expected); // a copy, since it may lie in what goes
        return true;
    }

    /// One member less; false when it is none.
    bool withdraw(const Member& member) {
        const bool* const reported = members_.find(member);
        if (reported == nullptr) {
            return false;
        }
        reported_ -= *reported ? 1U : 0U;
        const Member copy = member;
        members_.remove(copy);
        announce(copy, tally_change::withdrawn);
        return true;
    }

    /// Expects the members of a group, those that join later too, and no
    /// longer those that leave it. The group may end first; its members are
    /// expected on.
    void expect_group(const group<Member>& from, std::source_location where = std::source_location::current()) {
        in_.subscribe(
            from.joined(), [this](const group_joined<Member>& m) { expect(m.member); }, {}, where);
        in_.subscribe(
            from.left(), [this](const group_left<Member>& m) { withdraw(m.member); }, {}, where);
        for (const Member& member : from.members()) {
            expect(member);
        }
    }

    /// Takes everything that `source` carries, a channel or one address of
    /// one, as the report of a member, which `who` tells: a callable or a data
    /// member, such as `&StoodTo::hand`.
    template <class Source, class Who>
    void reports_from(const Source& source, Who who, delivery_options<typename Source::payload_type> options = {},
                      std::source_location where = std::source_location::current()) {
        in_.subscribe(
            source, [this, who = std::move(who)](const auto& payload) { report(std::invoke(who, payload)); },
            std::move(options), where);
    }

    /// Notes the report of one member.
    report_mark report(const Member& member) {
        bool* const reported = members_.find(member);
        if (reported == nullptr) {
            return report_mark::unexpected;
        }
        if (std::exchange(*reported, true)) {
            return report_mark::again;
        }
        ++reported_;
        announce(Member(member), tally_change::reported);
        return report_mark::counted;
    }

    /// Begins the next round: nobody has reported, members stay.
    void reset() {
        ++round_;
        reported_ = 0;
        complete_ = false;
        members_.each([](const Member&, bool& reported) { reported = false; });
        for (const auto& t : thresholds_) {
            t->reached = false;
        }
    }

    [[nodiscard]] std::size_t expected() const noexcept { return members_.size(); }
    [[nodiscard]] std::size_t reported() const noexcept { return reported_; }
    [[nodiscard]] bool has_reported(const Member& member) const {
        const bool* const reported = members_.find(member);
        return reported != nullptr && *reported;
    }

    /// Whether this round's completion has been announced.
    [[nodiscard]] bool complete() const noexcept { return complete_; }

    /// Which round this is, from 1 on.
    [[nodiscard]] std::uint32_t round() const noexcept { return round_; }

    /// Who has not reported, in the order in which they were expected.
    [[nodiscard]] std::vector<Member> missing() const {
        std::vector<Member> left;
        members_.each([&left](const Member& member, bool reported) {
            if (!reported) {
                left.push_back(member);
            }
        });
        return left;
    }

    /// Carries every report, and every coming and going.
    [[nodiscard]] const channel<tally_progress<Member>>& progress() const noexcept { return progress_; }

    /// Carries one payload a round, when all have reported.
    [[nodiscard]] const channel<tally_completed>& completed() const noexcept { return completed_; }

    /// Carries one payload a round, when `count` members have reported. If
    /// they have already, it comes in the next round.
    [[nodiscard]] const channel<tally_reached>& at_least(std::size_t count) const {
        auto at = thresholds_.begin();
        while (at != thresholds_.end() && (*at)->count < count) {
            ++at;
        }
        if (at == thresholds_.end() || (*at)->count != count) {
            at = thresholds_.insert(at, detail::make_owned<threshold>(name_, count));
            (*at)->reached = reported_ >= count;
        }
        return (*at)->reached_by;
    }

private:
    struct threshold {
        threshold(const std::string& name, std::size_t n)
            : count(n), reached_by(name + ".at_least_" + std::to_string(n)) {}
        std::size_t count;
        bool reached = false;
        channel<tally_reached> reached_by;
    };

    // A handler may reset or destroy this tally, or change it, which announces
    // what is then the case; so nothing is taken for granted after a publish. A
    // handler that throws does not keep the rest from being announced.
    void announce(const Member& member, tally_change change) {
        const publisher<tally_completed> alive{completed_};
        const std::uint32_t round = round_;
        const auto same_round = [&] { return alive.connected() && round_ == round; };
        detail::first_failure failed;
        failed.run([&] { progress_.publish({member, change, reported_, expected()}); });
        for (std::size_t i = 0; same_round() && i < thresholds_.size() && thresholds_[i]->count <= reported_; ++i) {
            if (!std::exchange(thresholds_[i]->reached, true)) {
                failed.run([&] { thresholds_[i]->reached_by.publish({reported_, expected()}); });
            }
        }
        if (same_round() && !complete_ && reported_ != 0 && reported_ == expected()) {
            complete_ = true;
            failed.run([&] { completed_.publish({reported_, round}); });
        }
        failed.rethrow();
    }

    std::string name_;
    detail::roll<Member, bool> members_;
    std::size_t reported_ = 0;
    std::uint32_t round_ = 1;
    bool complete_ = false;
    channel<tally_progress<Member>> progress_;
    channel<tally_completed> completed_;
    mutable std::vector<detail::owned<threshold>> thresholds_; ///< the lowest first; made when asked for
    subscriber in_;
};

WIRED_COURIER_NAMESPACE_END
