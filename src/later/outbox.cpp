#include <courier/outbox.hpp>

#include "delivery/subscriptions.hpp"
#include "later/outbox_reports.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t span_piece = 64; // payloads between two looks at a budget

bool is_done_with(const lane_base& lane) noexcept {
    return lane.users == 0 && (!lane.implicit || lane.target->closed) && !lane.queued && !lane.in_round && !lane.busy &&
           !lane.posts_aside;
}

// Its policy is the user's, so that its end may do anything.
void remove_lane_at(outbox_core& box, std::size_t at) noexcept {
    if (const lane_base& lane = *box.lanes[at]; lane.implicit) {
        box.by_target.erase(lane.target);
        box.newest = nullptr;
    }
    const owned<lane_base> gone = taken_from(box.lanes, at);
}

void remove_if_done(lane_base& lane) noexcept {
    outbox_core& box = *lane.box;
    if (box.walks != 0 || !is_done_with(lane)) {
        return; // whoever walks looks again
    }
    const auto found =
        std::find_if(box.lanes.begin(), box.lanes.end(), [&](const auto& one) { return one.get() == &lane; });
    remove_lane_at(box, static_cast<std::size_t>(found - box.lanes.begin()));
}

// From the end, as far as the list still goes.
void remove_those_done(outbox_core& box) noexcept {
    for (std::size_t i = box.lanes.size(); i-- > 0;) {
        if (i < box.lanes.size() && is_done_with(*box.lanes[i])) {
            remove_lane_at(box, i);
        }
    }
}

// Nothing waits any more. What waited may own posters of this outbox.
void drop_all(outbox_core& box) noexcept {
    ++box.walks;
    box.ready.clear();
    box.round.clear();
    box.next_in_round = 0;
    for (std::size_t i = 0; i < box.lanes.size(); ++i) {
        lane_base& lane = *box.lanes[i];
        lane.box_closed = true;
        lane.queued = false;
        lane.in_round = false;
        lane.drop();
    }
    --box.walks;
    if (box.walks == 0) {
        remove_those_done(box);
    }
}

} // namespace

lane_base::lane_base(outbox_core& through, channel_core& to) : box(&through), target(&to) {
    if (target != &nowhere()) {
        retain(*target);
    }
}

lane_base::~lane_base() {
    if (target != &nowhere()) {
        release(*target);
    }
}

void lane_base::note(const void* payload, const address_label& to, posting_outcome outcome) noexcept {
    looks_on().posted(*target, box->name, payload, where, to, outcome);
}

void lane_base::note_at(std::size_t place, const void* payload, const address_label& to,
                        posting_outcome outcome) noexcept {
    const post_mark mark = looks_on().posted(*target, box->name, payload, where, to, outcome);
    if_memory_allows([&] {
        if (marks.size() <= place) {
            marks.resize(place + 1);
        }
        marks[place] = mark;
    });
}

void queue(lane_base& lane) noexcept {
    lane.box->ready.push_back(&lane); // for which there is room
    lane.queued = true;
}

lane_held::lane_held(lane_base& lane) noexcept : lane_(lane) {
    ++lane_.users;
    retain(*lane_.box);
}

lane_held::~lane_held() {
    end_use(lane_);
}

void let_go_after_use(lane_base& lane) noexcept {
    outbox_core& box = *lane.box;
    const bool closes = std::exchange(lane.closes, false);
    const std::uint32_t left = std::exchange(lane.left_users, 0);
    retain(box);
    if (lane.box_closed && !box.delivering) {
        lane.queued = false;
        lane.drop();
    }
    if (left != 0) {
        lane.users -= left - 1;
        leave_lane(lane);
        for (std::uint32_t i = 0; i < left; ++i) {
            release(box);
        }
    }
    if (closes) {
        release(box);
    }
    release(box);
}

outbox_core::outbox_core(std::string_view outbox_name) : thread(this_thread_number()), name(outbox_name) {}

outbox_core* core_of(outbox& box) noexcept {
    return access::outbox(box);
}

outbox_core* open_outbox(std::string_view name) {
    return new outbox_core(name);
}

void close_outbox(outbox_core& box) noexcept {
    box.closed = true;
    for (const auto& lane : box.lanes) {
        lane->box_closed = true;
    }
    delete std::exchange(box.errands, nullptr);
    if (!box.delivering) { // else the round that it ended in does this
        drop_all(box);
    }
    const auto busy =
        std::find_if(box.lanes.begin(), box.lanes.end(), [](const auto& one) { return one->busy || one->posts_aside; });
    if (busy == box.lanes.end()) {
        release(box);
    } else { // whoever is busy there gives the outbox' reference back
        (*busy)->closes = true;
        (*busy)->lets_go = true;
    }
}

void release(outbox_core& box) noexcept {
    if (--box.refs == 0) {
        delete &box;
    }
}

lane_base* find_implicit(outbox_core& box, const channel_core& target) noexcept {
    if (box.newest != nullptr && box.newest->target == &target) {
        return box.newest;
    }
    const auto found = box.by_target.find(&target);
    return found != box.by_target.end() ? box.newest = found->second : nullptr;
}

lane_base& enter_lane(outbox_core& box, owned<lane_base> lane, bool implicit) {
    box.sweeps = box.sweeps || implicit; // those of channels that are gone have nobody who would remove them
    lane->implicit = implicit;
    lane->box_closed = box.closed;
    const std::size_t count = box.lanes.size() + 1; // all that takes memory comes first
    reserve_by_halves(box.lanes, count);
    reserve_by_halves(box.ready, count);
    reserve_by_halves(box.round, count);
    if (implicit) {
        box.by_target.emplace(lane->target, lane.get());
        box.newest = lane.get();
    }
    box.lanes.push_back(std::move(lane));
    return *box.lanes.back();
}

void leave_lane(lane_base& lane) noexcept {
    if (--lane.users == 0) {
        remove_if_done(lane);
    }
}

void end_use(lane_base& lane) noexcept {
    if (lane.busy || lane.posts_aside) {
        ++lane.left_users;
        lane.lets_go = true;
        return;
    }
    outbox_core& box = *lane.box;
    leave_lane(lane);
    release(box);
}

namespace {

// A lane in which something of the user's is in the middle of a change is left
// for the next one.
void begin_round(outbox_core& box) noexcept {
    box.round.clear();
    box.round.swap(box.ready);
    box.next_in_round = 0;
    std::size_t count = 0;
    for (std::size_t i = 0; i < box.round.size(); ++i) { // which what is laid aside may make longer room for
        lane_base* const lane = box.round[i];
        if (lane->busy) {
            box.ready.push_back(lane);
            continue;
        }
        lane->in_round = true; // so that it stays, whatever goes with what is laid aside in it
        box.round[count++] = lane;
        lane->queued = lane->begin_round();
        if (lane->queued) { // more than is taken at a time
            box.ready.push_back(lane);
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

// One lane, as far as the budget goes; false when that is spent.
bool deliver_lane(outbox_core& box, lane_base& lane, const budget& most, std::size_t& delivered,
                  first_failure& failed) {
    while (lane.left() != 0 && !box.closed) {
        if (delivered >= most.payloads || (delivered != 0 && most.spent && most.spent())) {
            return false;
        }
        if (box.closed) {
            break;
        }
        const std::size_t piece = !most.spent ? most.payloads - delivered : lane.target->spans != 0 ? span_piece : 1;
        const std::size_t before = lane.left();
        failed.run([&] { lane.deliver(std::min(piece, most.payloads - delivered)); });
        delivered += before - lane.left();
        box.delivered += before - lane.left();
    }
    return true;
}

void end_of_lane(lane_base& lane) noexcept {
    lane.end_round(); // what is destroyed may give the lane's last poster up
    lane.in_round = false;
    remove_if_done(lane);
}

void deliver_some(outbox_core& box, const budget& most, round_report& report, first_failure& failed) {
    if (box.next_in_round == box.round.size()) {
        begin_round(box);
    }
    bool in_budget = true;
    while (in_budget && box.next_in_round != box.round.size() && !box.closed) {
        lane_base& lane = *box.round[box.next_in_round];
        in_budget = deliver_lane(box, lane, most, report.delivered, failed);
        if (in_budget) {
            ++box.next_in_round;
            end_of_lane(lane);
        }
    }
    if (box.next_in_round == box.round.size()) {
        ++box.rounds;
        ++report.rounds;
    }
}

/// Rounds under way, whatever happens to the outbox.
class delivery_guard {
public:
    explicit delivery_guard(outbox_core& box) noexcept : box_(box) {
        retain(box_);
        box_.delivering = true;
    }
    delivery_guard(const delivery_guard&) = delete;
    delivery_guard& operator=(const delivery_guard&) = delete;
    ~delivery_guard() {
        box_.delivering = false;
        if (box_.closed) {
            drop_all(box_);
        } else if (std::exchange(box_.sweeps, false)) { // here, as their policies may do anything when they end
            remove_those_done(box_);
        }
        release(box_);
    }

private:
    outbox_core& box_;
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
            most.begin();
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

std::size_t outbox::waiting() const noexcept {
    std::size_t sum = 0;
    for (const auto& lane : core_->lanes) {
        sum += lane->waiting() + lane->left();
    }
    return sum;
}

std::uint64_t outbox::turned_away() const noexcept {
    std::uint64_t sum = 0;
    for (const auto& lane : core_->lanes) {
        sum += lane->turned_away;
    }
    return sum;
}

std::vector<outbox_line> outbox::list() const {
    std::vector<outbox_line> lines;
    lines.reserve(core_->lanes.size());
    for (const auto& lane : core_->lanes) {
        lines.push_back({lane->target->name, lane->waiting() + lane->left(), lane->delivered, lane->turned_away});
    }
    return lines;
}

WIRED_COURIER_NAMESPACE_END
