// SPDX-License-Identifier: MIT
#include <courier/frame_driver.hpp>

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/systems.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

void tell(detail::backlog_base& backlog) noexcept {
    backlog.told_delivered = backlog.delivered;
    backlog.told_turned_away = backlog.turned_away;
}

// What each of them stands for, which stays when it ends.
detail::shared<detail::inbox_core> core_of(inbox& of) noexcept {
    return detail::access::kept_core(of);
}
detail::held<detail::timetable_core> core_of(timetable& of) noexcept {
    return detail::held(detail::access::hours(of));
}
detail::held<detail::systems_core> core_of(systems& of) noexcept {
    return detail::held(detail::access::systems_of(of));
}
detail::held<detail::outbox_core> core_of(outbox& of) noexcept {
    return detail::held(detail::access::outbox(of));
}

template <class Core>
bool has_ended(const Core& core) noexcept {
    if constexpr (requires { core.over; }) {
        return core.over;
    } else {
        return core.closed;
    }
}

/// Something that takes part; neither moves when a handler adds some.
template <class What>
struct part {
    part(What& of, budget its_most, std::uint64_t before)
        : most(std::move(its_most)), turned_away(before), what_(&of), core_(core_of(of)) {}

    /// Null: it was left out, or has ended.
    [[nodiscard]] What* what() const noexcept { return what_ != nullptr && !has_ended(*core_) ? what_ : nullptr; }
    void leave(const void* gone) noexcept { what_ = what_ == gone ? nullptr : what_; }

    budget most;
    std::uint64_t turned_away; ///< as of the newest frame's report

private:
    What* what_;
    decltype(core_of(std::declval<What&>())) core_;
};
template <class What>
using parts = std::vector<detail::owned<part<What>>>;

template <class What>
void add(parts<What>& to, What& what, budget most, std::uint64_t turned_away = 0) {
    to.push_back(detail::make_owned<part<What>>(what, std::move(most), turned_away));
}

/// Of any class that takes in what comes from outside.
template <>
struct part<void> {
    [[nodiscard]] void* what() const noexcept { return what_; }
    void leave(const void* gone) noexcept { what_ = what_ == gone ? nullptr : what_; }

    void* what_; ///< null: left out
    std::size_t (*take_in)(void*);
};

/// What ends in a frame is destroyed when that is over.
class frame_of_systems {
public:
    explicit frame_of_systems(const parts<systems>& all) {
        cores_.reserve(all.size());
        for (const auto& one : all) {
            if (one->what() != nullptr) {
                cores_.emplace_back(detail::access::systems_of(*one->what()));
                cores_.back()->begin_frame();
            }
        }
    }
    frame_of_systems(const frame_of_systems&) = delete;
    frame_of_systems& operator=(const frame_of_systems&) = delete;
    ~frame_of_systems() {
        for (const auto& core : cores_) {
            core->end_frame();
        }
    }

private:
    std::vector<detail::held<detail::systems_core>> cores_;
};

// Budgets hold code of the user's, whose end may add or leave out others.
template <class What>
void remove_those_left_out(parts<What>& from) noexcept {
    for (std::size_t i = from.size(); i-- > 0;) {
        if (i < from.size() && from[i]->what() == nullptr) {
            const auto gone = detail::taken_from(from, i);
        }
    }
}

} // namespace

struct frame_driver::core : detail::counted<core> { // by the driver, and a frame
    bool over = false;                              ///< the driver is gone
    bool running = false;
    parts<void> others;
    parts<inbox> sources;
    parts<timetable> timetables;
    parts<systems> updated;
    parts<outbox> stages;
    frame_report report;
    game_time elapsed{}; ///< for ledgers, should there be no timetable

    template <class What>
    void leave(parts<What>& from, const What* gone) noexcept {
        const detail::held until_then(*this); // a budget that ends may end the driver
        for (const auto& one : from) {
            one->leave(gone);
        }
        if (!running) {
            remove_those_left_out(from);
        }
    }

    void run(game_time step, detail::first_failure& failed);
    void take_in(detail::first_failure& failed);
    void advance(game_time step, detail::first_failure& failed);
    void update(game_time step, detail::first_failure& failed);
    void deliver(detail::first_failure& failed);
    void count_channels();
    void end_frame(game_time step);
};

frame_driver::frame_driver() : core_(new core) {}

frame_driver::~frame_driver() {
    const auto own = detail::held<core>::taking_over(core_);
    own->over = true;
}

frame_driver& frame_driver::take_in(inbox& from, budget most) {
    add(core_->sources, from, std::move(most), from.turned_away());
    return *this;
}

frame_driver& frame_driver::add_source(void* from, std::size_t (*takes)(void*)) {
    core_->others.push_back(detail::owned<part<void>>(new part<void>{from, takes}));
    return *this;
}

void frame_driver::remove_source(const void* gone) noexcept {
    core_->leave(core_->others, gone);
}

frame_driver& frame_driver::advance(timetable& time) {
    add(core_->timetables, time, {});
    return *this;
}

frame_driver& frame_driver::update(systems& all) {
    add(core_->updated, all, {});
    return *this;
}

frame_driver& frame_driver::deliver(outbox& box, budget most) {
    add(core_->stages, box, std::move(most));
    for (const auto& backlog : detail::access::outbox(box)->backlogs) {
        tell(*backlog); // what was before is not this frame's
    }
    return *this;
}

void frame_driver::leave(const inbox& gone) noexcept {
    core_->leave(core_->sources, &gone);
}

void frame_driver::leave(const timetable& gone) noexcept {
    core_->leave(core_->timetables, &gone);
}

void frame_driver::leave(const systems& gone) noexcept {
    core_->leave(core_->updated, &gone);
}

void frame_driver::leave(const outbox& gone) noexcept {
    core_->leave(core_->stages, &gone);
}

const frame_report& frame_driver::report() const noexcept {
    return core_->report;
}

const frame_report& frame_driver::run(time_span step) {
    core& own = *core_;
    if (!own.running) {
        const detail::held until_then(own); // a handler may destroy the driver
        detail::first_failure failed;
        own.run(step, failed);
        failed.rethrow();
    }
    return own.report;
}

void frame_driver::core::run(game_time step, detail::first_failure& failed) {
    ++report.frame;
    report.arrived = report.turned_away = report.due = report.delivered = 0;
    {
        const frame_of_systems frame(updated);
        const detail::while_true now(running); // whatever is called meanwhile may leave some out, or add some
        take_in(failed);
        advance(step, failed);
        update(step, failed);
        deliver(failed);
    }
    remove_those_left_out(others);
    remove_those_left_out(sources);
    remove_those_left_out(timetables);
    remove_those_left_out(updated);
    remove_those_left_out(stages);
    if (!over) {
        failed.run([this] { count_channels(); });
        end_frame(step);
    }
}

void frame_driver::core::take_in(detail::first_failure& failed) {
    for (std::size_t i = 0; i < others.size() && !over; ++i) {
        if (const part<void>& one = *others[i]; one.what() != nullptr) {
            failed.run([&] { report.arrived += one.take_in(one.what()); });
        }
    }
    for (std::size_t i = 0; i < sources.size() && !over; ++i) {
        part<inbox>& s = *sources[i];
        inbox* const from = s.what();
        if (from == nullptr) {
            continue;
        }
        if (!detail::access::feeds(*from).is_in_round()) {
            failed.run([&] { report.arrived += from->take_in(s.most); });
        }
        if (!over && s.what() != nullptr) { // still
            const std::uint64_t turned_away = from->turned_away();
            report.turned_away += static_cast<std::size_t>(turned_away - std::exchange(s.turned_away, turned_away));
        }
    }
}

void frame_driver::core::advance(game_time step, detail::first_failure& failed) {
    for (std::size_t i = 0; i < timetables.size() && !over; ++i) {
        if (timetable* const time = timetables[i]->what(); time != nullptr) {
            failed.run([&] { report.due += time->advance(step); });
        }
    }
}

void frame_driver::core::update(game_time step, detail::first_failure& failed) {
    for (std::size_t i = 0; i < updated.size() && !over; ++i) {
        if (systems* const all = updated[i]->what(); all != nullptr) {
            failed.run([&] { all->update(step); });
        }
    }
}

void frame_driver::core::deliver(detail::first_failure& failed) {
    for (std::size_t i = 0; i < stages.size() && !over; ++i) {
        part<outbox>& s = *stages[i];
        outbox* const which = s.what();
        if (which == nullptr) {
            continue;
        }
        detail::outbox_core& box = *detail::access::outbox(*which);
        const detail::held until_then(box);
        const std::uint64_t before = box.delivered;
        failed.run([&] { which->deliver(s.most); });
        report.delivered += box.delivered - before;
    }
}

void frame_driver::core::count_channels() {
    report.channels.clear();
    report.waiting = 0;
    for (const auto& s : stages) {
        outbox* const box = s->what();
        if (box == nullptr) {
            continue;
        }
        for (const auto& backlog : detail::access::outbox(*box)->backlogs) {
            const frame_line line{backlog->target->name,
                                  static_cast<std::size_t>(backlog->delivered - backlog->told_delivered),
                                  backlog->waiting() + backlog->left(),
                                  static_cast<std::size_t>(backlog->turned_away - backlog->told_turned_away)};
            report.waiting += line.waiting;
            if (line.delivered != 0 || line.waiting != 0 || line.turned_away != 0) {
                report.channels.push_back(line);
            }
            tell(*backlog);
        }
    }
    std::sort(report.channels.begin(), report.channels.end(), [](const frame_line& a, const frame_line& b) {
        return a.delivered != b.delivered ? a.delivered > b.delivered : a.channel < b.channel;
    });
}

void frame_driver::core::end_frame(game_time step) {
    if (detail::overseen()) [[unlikely]] {
        elapsed += step;
        timetable* const first = timetables.empty() ? nullptr : timetables.front()->what();
        detail::looks_on().frame_ended((first == nullptr ? elapsed : first->now()).count());
    }
}

WIRED_COURIER_NAMESPACE_END
