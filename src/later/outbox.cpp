// SPDX-License-Identifier: MIT
#include <courier/outbox.hpp>

#include "delivery/subscriptions.hpp"
#include "later/outbox_reports.hpp"
#include "later/posting_order.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <unordered_map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct target_index : std::unordered_map<const channel_core*, backlog_base*> {};

namespace {

constexpr std::size_t span_piece = 64; // payloads between two looks at a budget

bool is_done_with(const backlog_base& backlog) noexcept {
    return backlog.users == 0 && (!backlog.implicit || backlog.target->closed) && !backlog.queued &&
           !backlog.in_round && !backlog.busy && !backlog.posts_aside;
}

// Its policy is the user's, so that its end may do anything.
void remove_backlog_at(outbox_core& box, std::size_t at) noexcept {
    if (const backlog_base& backlog = *box.backlogs[at]; backlog.implicit) {
        box.by_target->erase(backlog.target);
        box.newest = nullptr;
    }
    const owned<backlog_base> gone = taken_from(box.backlogs, at);
}

void remove_if_done(backlog_base& backlog) noexcept {
    outbox_core& box = *backlog.box;
    if (box.walks != 0 || !is_done_with(backlog)) {
        return; // whoever walks looks again
    }
    const auto found =
        std::find_if(box.backlogs.begin(), box.backlogs.end(), [&](const auto& one) { return one.get() == &backlog; });
    remove_backlog_at(box, static_cast<std::size_t>(found - box.backlogs.begin()));
}

// From the end, as far as the list still goes.
void remove_those_done(outbox_core& box) noexcept {
    for (std::size_t i = box.backlogs.size(); i-- > 0;) {
        if (i < box.backlogs.size() && is_done_with(*box.backlogs[i])) {
            remove_backlog_at(box, i);
        }
    }
}

// Nothing waits any more. What waited may own posters of this outbox.
void drop_all(outbox_core& box) noexcept {
    ++box.walks;
    if (box.order != nullptr) {
        box.order->clear();
    }
    box.ready.clear();
    box.round.clear();
    box.next_in_round = 0;
    for (std::size_t i = 0; i < box.backlogs.size(); ++i) {
        backlog_base& backlog = *box.backlogs[i];
        backlog.box_closed = true;
        backlog.queued = false;
        backlog.in_round = false;
        backlog.drop();
    }
    --box.walks;
    if (box.walks == 0) {
        remove_those_done(box);
    }
}

} // namespace

void retain(backlog_base& backlog) noexcept {
    ++backlog.users;
    static_cast<void>(held(*backlog.box).let_go());
}

namespace {

void leave_backlog(backlog_base& backlog) noexcept {
    if (--backlog.users == 0) {
        remove_if_done(backlog);
    }
}

// References that its users have, or it itself.
void take_references(outbox_core& box, std::uint32_t count) noexcept {
    for (std::uint32_t i = 0; i < count; ++i) {
        static_cast<void>(held<outbox_core>::taking_over(&box));
    }
}

} // namespace

void release(backlog_base& backlog) noexcept {
    if (backlog.busy || backlog.posts_aside) {
        ++backlog.left_users;
        backlog.lets_go = true;
        return;
    }
    outbox_core& box = *backlog.box;
    leave_backlog(backlog);
    take_references(box, 1);
}

void let_go_after_use(backlog_base& backlog) noexcept {
    outbox_core& box = *backlog.box;
    const bool closes = std::exchange(backlog.closes, false);
    const std::uint32_t left = std::exchange(backlog.left_users, 0);
    const held until_then(box);
    if (backlog.box_closed && !box.delivering) {
        backlog.queued = false;
        backlog.drop();
    }
    if (left != 0) {
        backlog.users -= left - 1;
        leave_backlog(backlog);
    }
    take_references(box, left + (closes ? 1U : 0U));
}

outbox_core::outbox_core(std::string_view outbox_name, bool keeps_order)
    : thread(this_thread_number()), name(outbox_name), by_target(make_owned<target_index>()),
      order(keeps_order ? make_owned<posting_order>() : owned<posting_order>()),
      place(name, waiting_kind::outbox, &look_into, this) {}

outbox_core::~outbox_core() = default;

outbox_core* core_of(outbox& box) noexcept {
    return access::outbox(box);
}

outbox_core* open_outbox(std::string_view name, bool keeps_order, bool by_address) {
    auto* const made = new outbox_core(name, keeps_order);
    made->by_address = by_address;
    return made;
}

void close_outbox(outbox_core& box) noexcept {
    box.closed = true;
    box.place.leave();
    for (const auto& backlog : box.backlogs) {
        backlog->box_closed = true;
    }
    delete std::exchange(box.errands, nullptr);
    if (!box.delivering) { // else the round that it ended in does this
        drop_all(box);
    }
    const auto busy = std::find_if(box.backlogs.begin(), box.backlogs.end(),
                                   [](const auto& one) { return one->busy || one->posts_aside; });
    if (busy == box.backlogs.end()) {
        take_references(box, 1);
    } else { // whoever is busy there gives the outbox' reference back
        (*busy)->closes = true;
        (*busy)->lets_go = true;
    }
}

void retain(outbox_core& box) noexcept {
    ++box.refs;
}

void release(outbox_core& box) noexcept {
    if (--box.refs == 0) {
        delete &box;
    }
}

backlog_base* find_implicit(outbox_core& box, const channel_core& target) noexcept {
    if (box.newest != nullptr && box.newest->target == &target) {
        return box.newest;
    }
    const auto found = box.by_target->find(&target);
    return found != box.by_target->end() ? box.newest = found->second : nullptr;
}

backlog_base& enter_backlog(outbox_core& box, owned<backlog_base> backlog, bool implicit) {
    box.sweeps = box.sweeps || implicit; // those of channels that are gone have nobody who would remove them
    backlog->implicit = implicit;
    backlog->box_closed = box.closed;
    const std::size_t count = box.backlogs.size() + 1; // all that takes memory comes first
    reserve_by_halves(box.backlogs, count);
    reserve_by_halves(box.ready, count);
    reserve_by_halves(box.round, count);
    if (implicit) {
        box.by_target->emplace(backlog->target, backlog.get());
        box.newest = backlog.get();
    }
    box.backlogs.push_back(std::move(backlog));
    return *box.backlogs.back();
}

namespace {

// A backlog in which something of the user's is in the middle of a change is left
// for the next one.
void begin_round(outbox_core& box) noexcept {
    box.round.clear();
    box.round.swap(box.ready);
    box.next_in_round = 0;
    if (box.order != nullptr) {
        box.order->begin_round();
    }
    std::size_t count = 0;
    for (std::size_t i = 0; i < box.round.size(); ++i) { // which what is laid aside may make longer room for
        backlog_base* const backlog = box.round[i];
        if (backlog->busy) {
            box.ready.push_back(backlog);
            continue;
        }
        backlog->in_round = true; // so that it stays, whatever goes with what is laid aside in it
        box.round[count++] = backlog;
        backlog->queued = backlog->begin_round();
        if (backlog->queued) { // more than is taken at a time
            box.ready.push_back(backlog);
        }
    }
    box.round.resize(count);
}

std::size_t left_in_round(const outbox_core& box) noexcept {
    std::size_t sum = 0;
    for (std::size_t i = box.next_in_round; i < box.round.size(); ++i) {
        sum += box.round[i]->left();
    }
    return sum;
}

// Of one backlog, until so many are left, as far as the budget goes; false when that is spent.
bool deliver_backlog(outbox_core& box, backlog_base& backlog, std::size_t until, const budget& most,
                     std::size_t& delivered, first_failure& failed) {
    while (backlog.left() > until && !box.closed) {
        if (delivered >= most.payloads || (delivered != 0 && most.spent && most.spent())) { // held by delivery_guard
            return false;
        }
        if (box.closed) {
            break;
        }
        const std::size_t piece = !most.spent                                          ? most.payloads - delivered
                                  : backlog.target->spans + backlog.target->posts != 0 ? span_piece
                                                                                       : 1;
        const std::size_t before = backlog.left();
        failed.run([&] { backlog.deliver(std::min({piece, most.payloads - delivered, before - until})); });
        delivered += before - backlog.left();
        box.delivered += before - backlog.left();
    }
    return true;
}

void end_of_backlog(backlog_base& backlog) noexcept {
    backlog.end_round(); // what is destroyed may give the backlog's last poster up
    backlog.in_round = false;
    remove_if_done(backlog);
}

// What the order of posts knows of, as far as the budget goes.
bool deliver_as_posted(outbox_core& box, const budget& most, std::size_t& delivered, first_failure& failed) {
    while (posting_order::run* const run = box.closed ? nullptr : box.order->next()) {
        backlog_base& backlog = *run->backlog;
        const std::size_t gone = std::min(run->count, backlog.gave_way);
        backlog.gave_way -= gone;
        run->count -= gone;
        const std::size_t before = backlog.left();
        const std::size_t until = before - std::min(run->count, before);
        if (!deliver_backlog(box, backlog, until, most, delivered, failed)) {
            run->count -= before - backlog.left();
            return false;
        }
        run->count = 0;
    }
    return true;
}

void deliver_some(outbox_core& box, const budget& most, round_report& report, first_failure& failed) {
    if (box.next_in_round == box.round.size()) {
        begin_round(box);
    }
    bool in_budget = box.order == nullptr || deliver_as_posted(box, most, report.delivered, failed);
    while (in_budget && box.next_in_round != box.round.size() && !box.closed) {
        backlog_base& backlog = *box.round[box.next_in_round];
        in_budget = deliver_backlog(box, backlog, 0, most, report.delivered, failed);
        if (in_budget) {
            ++box.next_in_round;
            end_of_backlog(backlog);
        }
    }
    if (box.next_in_round == box.round.size()) {
        if (box.order != nullptr) {
            box.order->end_round();
        }
        ++box.rounds;
        ++report.rounds;
    }
}

/// Rounds under way, whatever happens to the outbox.
class delivery_guard {
public:
    explicit delivery_guard(outbox_core& box) noexcept : box_(box) { box_->delivering = true; }
    delivery_guard(const delivery_guard&) = delete;
    delivery_guard& operator=(const delivery_guard&) = delete;
    ~delivery_guard() {
        box_->delivering = false;
        if (box_->closed) {
            drop_all(*box_);
        } else if (std::exchange(box_->sweeps, false)) { // here, as their policies may do anything when they end
            remove_those_done(*box_);
        }
    }

private:
    held<outbox_core> box_;
};

} // namespace
} // namespace detail

namespace {

// What both ways of delivering have around them.
template <class Rounds>
round_report deliver_rounds(detail::outbox_core& box, Rounds rounds) {
    round_report report;
    if (checked_build) {
        detail::check_thread(box, "told to deliver", std::source_location{});
    }
    if (box.delivering) {
        detail::report_nested(box);
        return report;
    }
    detail::first_failure failed;
    box.place.note_call();
    {
        const detail::delivery_guard guard(box);
        rounds(report, failed);
    }
    failed.rethrow();
    return report;
}

} // namespace

round_report outbox::deliver(const budget& most) {
    detail::outbox_core& box = *core_;
    return deliver_rounds(box, [&](round_report& report, detail::first_failure& failed) {
        if (most.begin) {
            most.begin(); // held by delivery_guard
        }
        detail::deliver_some(box, most, report, failed);
        report.left = detail::left_in_round(box);
        report.quiet = box.closed || (report.left == 0 && box.ready.empty());
    });
}

round_report outbox::deliver_until_quiet(std::size_t rounds) {
    detail::outbox_core& box = *core_;
    return deliver_rounds(box, [&](round_report& report, detail::first_failure& failed) {
        while (!report.quiet && report.rounds < rounds) {
            detail::deliver_some(box, {}, report, failed);
            report.quiet = box.closed || box.ready.empty();
        }
        if (!report.quiet) {
            detail::report_busy(box, report.rounds);
        }
    });
}

WIRED_COURIER_NAMESPACE_END
