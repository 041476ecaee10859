#include <courier/outbox.hpp>

#include "subscriptions.hpp"

#include <courier/detail/errands.hpp>
#include <courier/detail/first_failure.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

namespace {

constexpr std::size_t span_piece = 64; // payloads between two looks at a budget

void remove_lane(outbox_core& box, lane_base& lane) noexcept {
    if (lane.implicit) {
        box.by_target.erase(lane.target);
        box.newest = nullptr;
    }
    std::erase_if(box.lanes, [&](const auto& one) { return one.get() == &lane; });
}

bool is_done_with(const lane_base& lane) noexcept {
    return lane.users == 0 && (!lane.implicit || lane.target->closed) && !lane.queued && !lane.in_round;
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

void lane_base::note(const void* payload, posting_outcome outcome) {
    note_post(*target, box->name, payload, where, outcome);
}

void lane_base::note_at(std::size_t place, const void* payload, posting_outcome outcome) {
    if (marks.size() <= place) {
        marks.resize(place + 1);
    }
    marks[place] = note_post(*target, box->name, payload, where, outcome);
}

void queue(lane_base& lane) {
    lane.box->ready.push_back(&lane);
    lane.queued = true;
}

void address_index::add(std::uint64_t code, std::uint32_t place) {
    if (cells_.size() < (used_ + 1) * 2) {
        std::vector<cell> before = std::move(cells_);
        cells_.assign(std::max<std::size_t>(8, before.size() * 2), {});
        mask_ = cells_.size() - 1;
        for (const cell& c : before) {
            if (c.round == round_) {
                put(c.code, c.place);
            }
        }
    }
    put(code, place);
    ++used_;
}

void address_index::put(std::uint64_t code, std::uint32_t place) noexcept {
    std::size_t i = code & mask_;
    while (cells_[i].round == round_) {
        i = (i + 1) & mask_;
    }
    cells_[i] = {code, round_, place};
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
    delete std::exchange(box.errands, nullptr);
    for (const auto& lane : box.lanes) {
        lane->box_closed = true;
    }
    if (!box.delivering) { // else the round that it ended in does this
        for (const auto& lane : box.lanes) {
            lane->drop();
        }
    }
    release(box);
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
    if (implicit) { // those of channels that are gone have nobody who would remove them
        for (std::size_t i = box.lanes.size(); i-- > 0;) {
            if (is_done_with(*box.lanes[i])) {
                remove_lane(box, *box.lanes[i]);
            }
        }
    }
    lane->implicit = implicit;
    box.lanes.push_back(std::move(lane));
    lane_base& entered = *box.lanes.back();
    if (implicit) {
        box.by_target.emplace(entered.target, &entered);
        box.newest = &entered;
    }
    return entered;
}

void leave_lane(lane_base& lane) noexcept {
    --lane.users;
    if (is_done_with(lane)) {
        remove_lane(*lane.box, lane);
    }
}

void check_thread(const outbox_core& box, const char* what, std::source_location where) {
    if (const std::uint32_t here = this_thread_number(); box.thread != here) {
        raise(fault_code::wrong_thread, severity::misuse,
              "outbox '" + box.name + "' belongs to " + describe_thread(box.thread) + " and is " + what + " at " +
                  place(where) + " by " + describe_thread(here) + "; cross threads through an inbox",
              where);
    }
}

namespace {

void begin_round(outbox_core& box) {
    box.round.clear();
    box.round.swap(box.ready);
    box.next_in_round = 0;
    for (lane_base* lane : box.round) {
        lane->queued = false;
        lane->in_round = true;
        lane->begin_round();
    }
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
        const std::size_t piece = !most.spent ? most.payloads - delivered : lane.target->spans != 0 ? span_piece : 1;
        const std::size_t before = lane.left();
        failed.run([&] { lane.deliver(std::min(piece, most.payloads - delivered)); });
        delivered += before - lane.left();
        box.delivered += before - lane.left();
    }
    return true;
}

void end_of_lane(outbox_core& box, lane_base& lane) noexcept {
    lane.in_round = false;
    lane.end_round();
    if (is_done_with(lane)) {
        remove_lane(box, lane);
    }
}

void report_nested(const outbox_core& box) {
    raise(fault_code::nested_round, severity::refused,
          "outbox '" + box.name +
              "' was told to deliver by a handler that it is delivering to; what waits comes in the "
              "next round. Deliver from the main loop",
          std::source_location{});
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
            end_of_lane(box, lane);
        }
    }
    if (box.next_in_round == box.round.size()) {
        ++box.rounds;
        ++report.rounds;
    }
}

void report_busy(const outbox_core& box, std::size_t rounds) {
    std::string channels;
    for (const lane_base* lane : box.ready) {
        channels += (channels.empty() ? "'" : ", '") + lane->target->name + "' (" + std::to_string(lane->waiting()) +
                    " waiting, posted at " + place(lane->where) + ")";
    }
    raise(fault_code::not_quiet, severity::notice,
          "outbox '" + box.name + "' is not quiet after " + std::to_string(rounds) + " rounds: " + channels +
              "; look for handlers that post in a circle",
          std::source_location{});
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
            for (const auto& lane : box_.lanes) {
                lane->drop();
            }
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

std::uint64_t outbox::refused() const noexcept {
    std::uint64_t sum = 0;
    for (const auto& lane : core_->lanes) {
        sum += lane->refused;
    }
    return sum;
}

std::vector<outbox_line> outbox::list() const {
    std::vector<outbox_line> lines;
    lines.reserve(core_->lanes.size());
    for (const auto& lane : core_->lanes) {
        lines.push_back({lane->target->name, lane->waiting() + lane->left(), lane->delivered, lane->refused});
    }
    return lines;
}

} // namespace courier::inline WIRED_COURIER_ABI
