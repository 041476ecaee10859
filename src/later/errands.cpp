// SPDX-License-Identifier: MIT
#include <courier/detail/later/errands.hpp>

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/plain_backlog.hpp>
#include <courier/game_time.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Errands need no place to sleep in: each has one at its desk, by whose number it is woken.
class errand_backlog final : public plain_backlog<errand> {
public:
    errand_backlog(outbox_core& of, channel_core& on, const errand_desk& at) : plain_backlog(of, on, {}), desk_(at) {}
    void wake(std::uint32_t place, bool) override {
        make_room(1);
        woke = true;
        const errand_target& whom = desk_.target(place);
        const caused_by now(origin_of(whom.mark));
        post({place, whom.stay});
    }
    void forget(std::uint32_t) noexcept override {}

private:
    const errand_desk& desk_; ///< goes with the outbox, after which nothing is woken
};

errand_desk::errand_desk(outbox_core& box) {
    channel_core& target = *access::core(channel_);
    backlog_ = static_cast<errand_backlog*>(
        &enter_backlog(box, make_owned<errand_backlog>(box, target, std::as_const(*this)), true));
    in_ = channel_.subscribe([this](const errand& which) { run(which); });
}

errand_desk::~errand_desk() = default;

errand errand_desk::enroll(void (*what)(void*), void* who) {
    if (free_.empty()) { // posting and withdrawing need no memory then
        const std::size_t count = targets_.size() + 1;
        reserve_by_halves(targets_, count);
        reserve_by_halves(free_, count);
        backlog_->reserve(targets_.capacity());
        targets_.emplace_back();
        free_.push_back(static_cast<std::uint32_t>(targets_.size() - 1));
    }
    const std::uint32_t place = free_.back();
    free_.pop_back();
    errand_target& target = targets_[place];
    target.run = what;
    target.who = who;
    target.mark = overseen() ? mark_here(std::source_location{}) : post_mark{};
    return {place, target.stay};
}

void errand_desk::withdraw(errand which) noexcept {
    errand_target& target = targets_[which.place];
    if (target.stay == which.stay) {
        target.run = nullptr;
        ++target.stay;
        free_.push_back(which.place);
    }
}

bool errand_desk::post(errand which) noexcept {
    bool posted = false; // there is room for it, but for what was enrolled in a round
    if_memory_allows([&] { posted = backlog_->post(std::move(which)); }); // NOLINT(performance-move-const-arg)
    return posted;
}

void errand_desk::run(errand which) {
    const errand_target target = targets_[which.place]; // the outbox may end in what it does
    if (target.stay == which.stay && target.run != nullptr) {
        target.run(target.who);
    }
}

errand_desk* desk_of(outbox_core& box) {
    if (box.errands == nullptr && !box.closed) {
        box.errands = new errand_desk(box);
    }
    return box.errands;
}

void alarm::set(timetable_core& clock, outbox_core& box, std::int64_t delay, void (*ring)(void*), void* who) {
    set_to_stay(clock, box, delay, {}, ring, who);
    stays_ = false;
}

void alarm::set_to_stay(timetable_core& clock, outbox_core& box, std::int64_t delay, repetition again,
                        void (*ring)(void*), void* who) {
    cancel();
    stays_ = true;
    errand_desk* const desk = desk_of(box);
    if (desk == nullptr) {
        return;
    }
    ring_ = ring;
    who_ = who;
    const game_time when = later_by(game_time(static_cast<std::int64_t>(clock.now)), game_time(delay));
    errand_ = desk->enroll(&rung, this);
    unless_done withdrawn([&] { desk->withdraw(errand_); });
    backlog_user backlog(desk->backlog());
    timer_ = add_timer(clock, backlog, errand_.place, when.count(), again);
    withdrawn.done();
    hours_ = held(clock);
    box_ = held(box);
}

bool alarm::ring_soon() noexcept {
    return box_ && box_->errands != nullptr && box_->errands->post(errand_);
}

void alarm::cancel() noexcept {
    const auto box = std::move(box_);
    const auto clock = std::move(hours_);
    if (!box) {
        return;
    }
    if (box->errands != nullptr) {
        box->errands->withdraw(errand_);
    }
    detail::cancel(*clock, timer_.place, timer_.stay);
}

void alarm::rung(void* self) {
    auto& own = *static_cast<alarm*>(self);
    void (*const ring)(void*) = own.ring_;
    void* const who = own.who_;
    if (!own.stays_) {
        own.cancel();
    }
    ring(who);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
