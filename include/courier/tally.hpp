// Knows who must report, and announces when all have.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/put_off.hpp>
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
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// What became of one report.
enum class report_mark : std::uint8_t {
    counted,    ///< the member's first one of this round
    again,      ///< it had reported in this round already
    unexpected, ///< it is not a member
};

/// What changed the progress of a tally.
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

/// What `tally::unexpected()` carries.
template <class Member>
struct tally_unexpected {
    Member member; ///< who reported, and is not expected
};

/// Written as `{.counts_leavers = false}`.
struct tally_options {
    /// Whether a member that has reported stays counted when it leaves, until
    /// the round is over: of nine that are collected and removed, three make
    /// "3 of 9". Without it the report goes with its member: "0 of 6".
    bool counts_leavers = true;
};

/// Expects reports from members and announces how far things are: progress at
/// every change, a threshold when that number has reported, completion when all
/// have. Each threshold and the completion come once a round.
///
///     courier::tally<int> ready{"crew.ready", {1, 2, 3}};
///     ready.reports_from(crew.stood_to(), [](const StoodTo& s) { return s.hand; });
///     in.subscribe(ready.completed(), [this] { cast_off(); });
///
/// Members may be given at the start, join and leave while it runs
/// (`expect()`, `withdraw()`), or be those of a group (`expect_group()`). A
/// member that leaves is not waited for; whether its report still counts,
/// `tally_options` says. The round is complete if all that remain have
/// reported. A round without any report is never complete. Who joins a round
/// that is complete is counted in it, and waited for in the next.
///
/// What leaves while an event is being handled is a member until that event is
/// over, that is, until the outermost publish has served everybody. So it makes
/// no difference whether the handler that takes a member out of its group comes
/// before or after the one that reports for it.
///
/// Progress is announced first, then thresholds, the lowest first, then
/// completion. Belongs to one thread; every member may be called from a
/// handler, and a handler may destroy the tally. Can be neither copied nor
/// moved. A member is any type that can be an address.
template <class Member>
class tally {
public:
    /// `name` is for messages and reports and is copied. In reports, `where` publishes
    /// the tally's announcements, unless a handler reported or withdrew.
    explicit tally(std::string_view name = {}, std::initializer_list<Member> members = {}, tally_options options = {},
                   std::source_location where = std::source_location::current())
        : name_(name), options_(options), where_(where), progress_(name_ + ".progress"),
          completed_(name_ + ".completed"), unexpected_(name_ + ".unexpected"), in_(name) {
        for (const Member& member : members) {
            expect(member);
        }
    }
    tally(const tally&) = delete;
    tally& operator=(const tally&) = delete;

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return name_; }

    /// One member more; false when it is one already. It has not reported,
    /// unless it left in this round and its report still counts.
    bool expect(const Member& member) {
        const Member copy = member; // it may lie in what goes
        if (const standing* const its = members_.find(copy); its != nullptr && its->is_leaving) {
            const publisher<tally_completed> alive{completed_};
            take_out(copy);
            if (!alive.connected()) {
                return false;
            }
        }
        if (standing* const there = members_.find(copy); there == nullptr) {
            members_.add(copy, {});
        } else if (!std::exchange(there->gone, false)) {
            return false;
        }
        announce(copy, tally_change::expected);
        return true;
    }

    /// One member less; false when it is none. In a handler it takes effect
    /// when the event that is being handled is over.
    bool withdraw(const Member& member) {
        if (const standing* const its = members_.find(member); its == nullptr || its->gone || its->is_leaving) {
            return false;
        }
        const Member copy = member;
        if (at_the_end_.ask()) {
            leaving_.push_back(copy); // first, as it may fail
            standing& its = *members_.find(copy);
            its.is_leaving = true;
            its.is_torn_down = detail::is_level_ending();
        } else {
            take_out(copy);
        }
        return true;
    }

    /// Expects the members of a group, those that join later too, and no
    /// longer those that leave it. Those that leave because their level ends complete
    /// nothing. The group may end first; its members are expected on.
    void expect_group(const group<Member>& from, std::source_location where = std::source_location::current()) {
        in_.subscribe(
            from.joined(), [this](const group_joined<Member>& m) { expect(m.member); }, {}, where);
        in_.subscribe(
            from.left(), [this](const group_left<Member>& m) { withdraw(m.member); }, {}, where);
        const publisher<tally_completed> alive{completed_}; // a handler may destroy this tally
        const std::vector<Member> members = from.members();
        for (std::size_t i = 0; i < members.size() && alive.connected(); ++i) {
            expect(members[i]);
        }
    }

    /// Takes everything that `source` carries, a channel or one address of
    /// one, as the report of a member, which `who` tells: a callable or a data
    /// member, such as `&StoodTo::hand`; of a channel with addresses also one
    /// that takes the address in front of the payload.
    template <class Source, class Who>
    void reports_from(const Source& source, Who who, delivery_options<typename Source::payload_type> options = {},
                      std::source_location where = std::source_location::current()) {
        if constexpr (requires(const Source& s) { takes_address_of(s, who); }) {
            using payload = typename Source::payload_type;
            in_.subscribe(
                source,
                [this, where, who = std::move(who)](const typename Source::address_type& to, const payload& what) {
                    this->report_of([&] { return who(to, what); }, where);
                },
                std::move(options), where);
        } else {
            in_.subscribe(
                source,
                [this, where, who = std::move(who)](const auto& payload) {
                    this->report_of([&] { return std::invoke(who, payload); }, where); // held
                },
                std::move(options), where);
        }
    }

    /// Notes the report of one member. One that is not expected is announced
    /// (`unexpected()`) and counted.
    report_mark report(const Member& member, std::source_location where = std::source_location::current()) {
        standing* const there = members_.find(member);
        if (there == nullptr) {
            ++unexpected_reports_;
            unexpected_.publish({member}, where);
            return report_mark::unexpected;
        }
        if (there->reported) {
            return report_mark::again;
        }
        const Member copy(member); // it may lie in what goes
        there->reported = true;
        ++reported_;
        announce(copy, tally_change::reported);
        return report_mark::counted;
    }

    /// Begins the next round: nobody has reported, members stay.
    void reset() {
        ++round_;
        reported_ = 0;
        complete_ = false;
        forget_leavers();
        members_.each([](const Member&, standing& its) { its.reported = false; });
        for (const auto& t : thresholds_) {
            t->reached = false;
        }
    }

    /// Members, and those that left and still count.
    [[nodiscard]] std::size_t expected() const noexcept { return members_.size(); }
    /// How many of them have reported.
    [[nodiscard]] std::size_t reported() const noexcept { return reported_; }
    /// Whether that member has, in this round.
    [[nodiscard]] bool has_reported(const Member& member) const {
        const standing* const its = members_.find(member);
        return its != nullptr && its->reported;
    }

    /// How many reports came from who was not expected, in all rounds.
    [[nodiscard]] std::uint64_t unexpected_reports() const noexcept { return unexpected_reports_; }

    /// Whether this round's completion has been announced.
    [[nodiscard]] bool complete() const noexcept { return complete_; }

    /// Which round this is, from 1 on.
    [[nodiscard]] std::uint32_t round() const noexcept { return round_; }

    /// Who has not reported, in the order in which they were expected.
    [[nodiscard]] std::vector<Member> missing() const {
        std::vector<Member> left;
        members_.each([&left](const Member& member, const standing& its) {
            if (!its.reported) {
                left.push_back(member);
            }
        });
        return left;
    }

    /// Carries every report, and every coming and going.
    [[nodiscard]] const channel<tally_progress<Member>>& progress() const noexcept { return progress_; }

    /// Carries one payload a round, when all have reported.
    [[nodiscard]] const channel<tally_completed>& completed() const noexcept { return completed_; }

    /// Carries every report of somebody who is not expected. Without a
    /// subscriber here the audit has a finding for it.
    [[nodiscard]] const channel<tally_unexpected<Member>>& unexpected() const noexcept { return unexpected_; }

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
    template <class Source, class Who>
        requires std::is_invocable_v<Who&, const typename Source::address_type&, const typename Source::payload_type&>
    static void takes_address_of(const Source&, const Who&);

    struct standing {
        bool reported = false;
        bool gone = false;         ///< it has left, and its report still counts
        bool is_leaving = false;   ///< when the event that is being handled is over
        bool is_torn_down = false; ///< with a level that ends
    };
    struct threshold {
        threshold(const std::string& name, std::size_t n)
            : count(n), reached_by(name + ".at_least_" + std::to_string(n)) {}
        std::size_t count;
        bool reached = false;
        channel<tally_reached> reached_by;
    };

    // What tells the member may destroy this tally.
    template <class Tell>
    void report_of(Tell who, std::source_location where) {
        const publisher<tally_completed> alive{completed_};
        if (const Member member = who(); alive.connected()) {
            report(member, where);
        }
    }

    // A handler may reset or destroy this tally, or change it, which announces
    // its new count; so nothing is taken for granted after a publish. A
    // handler that throws does not keep the rest from being announced.
    void announce(const Member& member, tally_change change, bool completes = true) {
        const publisher<tally_completed> alive{completed_};
        const std::uint32_t round = round_;
        const auto same_round = [&] { return alive.connected() && round_ == round; };
        detail::first_failure failed;
        failed.run([&] { progress_.publish({member, change, reported_, expected()}, where_); });
        for (std::size_t i = 0; same_round() && i < thresholds_.size() && thresholds_[i]->count <= reported_; ++i) {
            if (!std::exchange(thresholds_[i]->reached, true)) {
                failed.run([&] { thresholds_[i]->reached_by.publish({reported_, expected()}, where_); });
            }
        }
        if (completes && same_round() && !complete_ && reported_ != 0 && reported_ == expected()) {
            complete_ = true;
            failed.run([&] { completed_.publish({reported_, round}, where_); });
        }
        failed.rethrow();
    }

    void take_out(const Member& member) {
        standing* const its = members_.find(member);
        if (its == nullptr) {
            return;
        }
        its->is_leaving = false;
        const bool is_torn_down = its->is_torn_down || detail::is_level_ending();
        its->is_torn_down = false;
        if (its->reported && options_.counts_leavers) {
            its->gone = true;
        } else {
            reported_ -= its->reported ? 1U : 0U;
            members_.remove(member);
        }
        announce(member, tally_change::withdrawn, !is_torn_down);
    }

    // One after the other, since each is announced, which may do anything.
    void take_out_leaving() {
        const publisher<tally_completed> alive{completed_};
        detail::first_failure failed;
        const std::vector<Member> all = std::exchange(leaving_, {});
        for (std::size_t i = 0; i < all.size() && alive.connected(); ++i) {
            const standing* const its = members_.find(all[i]); // it may have come back
            if (its != nullptr && its->is_leaving) {
                failed.run([&] { take_out(all[i]); });
            }
        }
        failed.rethrow();
    }

    void forget_leavers() {
        std::vector<Member> gone;
        members_.each([&gone](const Member& member, const standing& its) {
            if (its.gone) {
                gone.push_back(member);
            }
        });
        for (const Member& member : gone) {
            members_.remove(member);
        }
    }

    std::string name_;
    tally_options options_;
    std::source_location where_; ///< that it was made at
    detail::roll<Member, standing> members_;
    std::vector<Member> leaving_; ///< of those so marked, in that order
    detail::put_off at_the_end_{[](void* self) { static_cast<tally*>(self)->take_out_leaving(); }, this};
    std::size_t reported_ = 0;
    std::uint64_t unexpected_reports_ = 0;
    std::uint32_t round_ = 1;
    bool complete_ = false;
    channel<tally_progress<Member>> progress_;
    channel<tally_completed> completed_;
    channel<tally_unexpected<Member>> unexpected_;
    mutable std::vector<detail::owned<threshold>> thresholds_; ///< the lowest first; made when asked for
    subscriber in_;
};

WIRED_COURIER_NAMESPACE_END
