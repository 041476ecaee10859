// The named phases of a match, a menu or a creature, and the moves between them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/enum_names.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/phases_core.hpp>
#include <courier/period.hpp>
#include <courier/subscriber.hpp>

#include <array>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// What `phases::entered()`, `left()` and `moved()` carry.
template <class Phase>
struct phase_move {
    Phase from;
    Phase to;
};

/// The moves that are allowed out of one phase, written as
/// `{watch::storm, {watch::calm, watch::dawn}}`.
template <class Phase>
struct moves_from {
    Phase from;
    std::initializer_list<Phase> to;
};

/// What became of a move.
enum class move_outcome : std::uint8_t {
    moved,
    there_already,
    not_allowed,   ///< it is none of the moves out of this phase
    outside,       ///< the phase that these are inside of does not go on
    never_settles, ///< more than a hundred moves were made by handlers of one
};

/// What became of a move that was asked for. False when it was refused.
class move_answer {
public:
    /// What became of the move.
    [[nodiscard]] move_outcome outcome() const noexcept { return outcome_; }
    /// Whether it is in the phase that was asked for.
    explicit operator bool() const noexcept {
        return outcome_ == move_outcome::moved || outcome_ == move_outcome::there_already;
    }
    /// Why it was refused, with names and the allowed moves; else empty.
    [[nodiscard]] const std::string& why() const noexcept { return why_; }

private:
    template <class>
    friend class phases;
    move_answer(move_outcome outcome, std::string why = {}) noexcept : outcome_(outcome), why_(std::move(why)) {}

    move_outcome outcome_;
    std::string why_;
};

/// Which of its phases something is in, and which moves there are:
///
///     enum class watch { calm, storm, dawn };
///     courier::phases<watch> hours{"watch", watch::calm, {{watch::calm, {watch::storm, watch::dawn}},
///                                                         {watch::storm, {watch::calm, watch::dawn}}}};
///     in.subscribe(hours.entered(watch::storm), [this] { sound_the_horn(); });
///     in.subscribe(sighted, handler, {.during = hours.in(watch::storm, watch::dawn)});
///     hours.move_to(watch::storm);
///
/// A move that is not allowed is refused: the answer says why, and
/// `fault_code::move_refused` is raised (`may_move_to()` asks without). Without
/// a table of moves all are allowed.
///
/// Entering and leaving are announced on channels, first that the old phase was
/// left, then that the new one was entered, then `moved()`; the new phase goes
/// on already. A move that a handler of these makes takes effect at once, and is
/// announced when the one before has been, so that everybody hears of moves in
/// the order in which they were made. A handler that throws keeps nothing from
/// being announced; the first exception is thrown by `move_to()`.
///
/// `Phase` is a scoped enum whose values are below 64; names in messages are
/// those of the code. A number that is none of its values is never moved to, and
/// is misuse everywhere else (`fault_code::move_refused`). A `const phases&` lets code ask and subscribe.
/// Belongs to one thread; a handler may destroy it. Can be neither copied nor moved.
template <class Phase>
class phases {
    static_assert(std::is_enum_v<Phase> && !std::is_convertible_v<Phase, int>,
                  "courier: phases are an enum class, such as enum class watch { calm, storm }");
    static constexpr std::size_t count = detail::enum_end<Phase>();
    static_assert(count != 0, "courier: an enum of phases has at least one value below 64");

public:
    using phase_type = Phase;

    /// `name` is for messages and reports and is copied. `first` goes on from
    /// the start, which is not announced.
    explicit phases(std::string_view name, Phase first, std::initializer_list<moves_from<Phase>> allowed = {})
        : core_(detail::open_phases(name, detail::enum_names<Phase>.data(), count, number_of(first))),
          moved_(std::string{name} + ".moved"), in_(name) {
        for (detail::phase_mask& mask : core_->allowed) {
            mask = allowed.size() == 0 ? ~detail::phase_mask{0} : 0;
        }
        for (const moves_from<Phase>& moves : allowed) {
            for (const Phase to : moves.to) {
                core_->allowed[number_of(moves.from)] |= detail::bit_of(number_of(to));
            }
        }
    }
    phases(const phases&) = delete;
    phases& operator=(const phases&) = delete;
    ~phases() { core_->over = true; } // before its channels end

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// The phase that goes on.
    [[nodiscard]] Phase now() const noexcept { return static_cast<Phase>(core_->now); }
    /// Whether it is in that phase.
    [[nodiscard]] bool is(Phase phase) const noexcept { return now() == phase; }

    /// For the delivery option `.during`: while one of these phases goes on, and
    /// never once this is gone.
    template <std::same_as<Phase>... Phases>
    [[nodiscard]] during in(Phases... which) const {
        static_assert(sizeof...(Phases) != 0, "courier: name the phases during which a subscription is live");
        return detail::phase_test(*core_, (detail::bit_of(number_of(which)) | ...));
    }

    /// Whether `move_to()` would be refused.
    [[nodiscard]] bool may_move_to(Phase to) const noexcept { return outcome_of(to) <= move_outcome::there_already; }

    /// Moves, unless that is refused.
    move_answer move_to(Phase to, std::source_location where = std::source_location::current()) {
        const move_outcome outcome = outcome_of(to);
        if (outcome > move_outcome::there_already) {
            return {outcome, detail::refuse_move(*core_, static_cast<std::size_t>(to), reason_for(outcome), where)};
        }
        if (outcome == move_outcome::moved) {
            make(to, where);
        }
        return {outcome};
    }

    /// Announces that a phase has begun, or is over.
    [[nodiscard]] const channel<phase_move<Phase>>& entered(Phase which) const {
        return channel_for(entered_, which, ".entered_");
    }
    /// Each time it leaves that phase.
    [[nodiscard]] const channel<phase_move<Phase>>& left(Phase which) const {
        return channel_for(left_, which, ".left_");
    }
    /// Announces every move.
    [[nodiscard]] const channel<phase_move<Phase>>& moved() const noexcept { return moved_; }

    /// From now on these phases are inside of others: as soon as `outer` leaves
    /// the phase `around`, this goes back to its first one, whatever moves are
    /// allowed; while that does not go on, moves are refused. `outer` may end first.
    template <class Outer>
    void stay_inside(const phases<Outer>& outer, Outer around,
                     std::source_location where = std::source_location::current()) {
        inside_ = outer.in(around);
        in_.subscribe(
            outer.left(around),
            [this, where] {
                if (core_->now != core_->first) {
                    make(static_cast<Phase>(core_->first), where);
                }
            },
            {}, where);
    }

    /// How often a phase was entered so far.
    [[nodiscard]] std::uint64_t times_entered(Phase which) const { return core_->entered[number_of(which)]; }

private:
    friend struct detail::access;
    friend struct detail::saving_access;
    using move_channel = detail::owned<channel<phase_move<Phase>>>;
    using channel_list = std::array<move_channel, count>;
    struct step {
        phase_move<Phase> move;
        std::source_location where;
    };

    /// Of a value that is one of the enum's; others are misuse.
    static std::uint8_t number_of(Phase which) {
        if (static_cast<std::size_t>(which) >= count) [[unlikely]] {
            detail::report_no_phase(detail::type_name<Phase>(), static_cast<std::size_t>(which));
        }
        return static_cast<std::uint8_t>(which);
    }

    [[nodiscard]] move_outcome outcome_of(Phase to) const noexcept {
        const auto number = static_cast<std::size_t>(to);
        if (number == core_->now) {
            return move_outcome::there_already;
        }
        if (!detail::guards::holds(inside_)) {
            return move_outcome::outside;
        }
        if (number >= count || (core_->allowed[core_->now] & detail::bit_of(number)) == 0) {
            return move_outcome::not_allowed;
        }
        return announced_ < 100 ? move_outcome::moved : move_outcome::never_settles;
    }
    [[nodiscard]] std::string reason_for(move_outcome outcome) const {
        return outcome == move_outcome::outside ? "the phase that it is inside of does not go on"
               : outcome == move_outcome::never_settles
                   ? "handlers have made a hundred moves one after the other; let one of them stop"
                   : "from there it may go to " + core_->allowed_after(core_->now);
    }

    [[nodiscard]] const channel<phase_move<Phase>>& channel_for(channel_list& list, Phase which,
                                                                std::string_view what) const {
        move_channel& place = list[number_of(which)];
        if (place == nullptr) {
            place = detail::make_owned<channel<phase_move<Phase>>>(core_->name + std::string{what} +
                                                                   std::string{core_->names[number_of(which)]});
        }
        return *place;
    }

    void make(Phase to, std::source_location where) {
        const step now_made{{now(), to}, where};
        if (announcing_) {
            waiting_.push_back(now_made);
        }
        core_->remember(core_->now, number_of(to), where); // what takes memory came before
        core_->now = number_of(to);
        if (!announcing_) {
            announce_all(now_made);
        }
    }

    // A handler may make more moves, or destroy this.
    void announce_all(const step& first) {
        const detail::held core(*core_);
        const detail::phases_core& alive = *core_;
        detail::first_failure failed;
        announcing_ = true;
        announced_ = 1;
        announce(alive, first, failed);
        while (!alive.over && !waiting_.empty()) {
            const step next = detail::taken_from(waiting_, 0);
            ++announced_;
            announce(alive, next, failed);
        }
        if (!alive.over) {
            announcing_ = false;
            announced_ = 0;
        }
        failed.rethrow();
    }
    void announce(const detail::phases_core& alive, const step& next, detail::first_failure& failed) {
        tell(left_[number_of(next.move.from)].get(), next, failed);
        if (!alive.over) {
            tell(entered_[number_of(next.move.to)].get(), next, failed);
        }
        if (!alive.over) {
            tell(&moved_, next, failed);
        }
    }
    static void tell(channel<phase_move<Phase>>* on, const step& next, detail::first_failure& failed) {
        if (on != nullptr && (on->size() != 0 || detail::overseen())) {
            failed.run([&] { on->publish(next.move, next.where); });
        }
    }

    detail::phases_owner core_;
    mutable channel_list left_;    ///< made when asked for
    mutable channel_list entered_; ///< the same
    channel<phase_move<Phase>> moved_;
    std::vector<step> waiting_; ///< moves that are not announced yet
    std::size_t announced_ = 0;
    bool announcing_ = false;
    during inside_;
    subscriber in_;
};

/// One set of phases, for people and reports.
struct phases_report {
    std::string name;
    std::string now;
    std::vector<std::string> phases;
    std::vector<std::pair<std::string, std::string>> allowed; ///< moves; all of them where no table was given
    /// A move that was made.
    struct step {
        std::string from;
        std::string to;
        std::uint64_t frame;
        std::uint64_t cause; ///< the event in whose handling it was made; 0: none
        std::source_location where;
    };
    std::vector<step> history; ///< the latest 256 moves, the oldest first
    std::uint64_t moves = 0;   ///< all
    std::uint64_t refused = 0;
};

/// All of the calling thread, in the order in which they were made.
[[nodiscard]] std::vector<phases_report> list_phases();

WIRED_COURIER_NAMESPACE_END
