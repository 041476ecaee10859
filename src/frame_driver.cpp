#include <courier/frame_driver.hpp>

#include <courier/detail/first_failure.hpp>
#include <courier/detail/ledger_core.hpp>

#include <algorithm>

namespace courier::inline WIRED_COURIER_ABI {

namespace {

void tell(detail::lane_base& lane) noexcept {
    lane.told_delivered = lane.delivered;
    lane.told_refused = lane.refused;
}

} // namespace

frame_driver& frame_driver::take_in(inbox& from) {
    inboxes_.push_back(&from);
    return *this;
}

frame_driver& frame_driver::advance(timetable& hours) {
    timetables_.push_back(&hours);
    return *this;
}

frame_driver& frame_driver::deliver(outbox& box, budget most) {
    stages_.push_back({&box, std::move(most)});
    for (const auto& lane : detail::access::outbox(box)->lanes) {
        tell(*lane); // what was before is not this frame's
    }
    return *this;
}

void frame_driver::leave(const inbox& gone) noexcept {
    std::erase(inboxes_, &gone);
}

void frame_driver::leave(const timetable& gone) noexcept {
    std::erase(timetables_, &gone);
}

void frame_driver::leave(const outbox& gone) noexcept {
    for (stage& s : stages_) {
        s.box = s.box == &gone ? nullptr : s.box;
    }
    if (!running_) {
        std::erase_if(stages_, [](const stage& s) { return s.box == nullptr; });
    }
}

const frame_report& frame_driver::run(game_time step) {
    detail::first_failure failed;
    ++report_.frame;
    report_.arrived = report_.due = report_.delivered = 0;
    for (std::size_t i = 0; i < inboxes_.size(); ++i) {
        failed.run([&] { report_.arrived += inboxes_[i]->take_in(); });
    }
    for (std::size_t i = 0; i < timetables_.size(); ++i) {
        failed.run([&] { report_.due += timetables_[i]->advance(step); });
    }
    deliver_stages(failed);
    count_channels();
    if (detail::overseen()) [[unlikely]] {
        const game_time now = timetables_.empty() ? elapsed_ += step : timetables_.front()->now();
        failed.run([&] { detail::note_frame(now.count()); });
    }
    failed.rethrow();
    return report_;
}

void frame_driver::deliver_stages(detail::first_failure& failed) {
    running_ = true; // a handler may leave some out
    for (std::size_t i = 0; i < stages_.size(); ++i) {
        if (stages_[i].box == nullptr) {
            continue;
        }
        detail::outbox_core& box = *detail::access::outbox(*stages_[i].box);
        retain(box);
        const std::uint64_t before = box.delivered;
        failed.run([&] { stages_[i].box->deliver(stages_[i].most); });
        report_.delivered += box.delivered - before;
        release(box);
    }
    running_ = false;
    std::erase_if(stages_, [](const stage& s) { return s.box == nullptr; });
}

void frame_driver::count_channels() {
    report_.channels.clear();
    report_.waiting = 0;
    for (const stage& s : stages_) {
        for (const auto& lane : detail::access::outbox(*s.box)->lanes) {
            const frame_line line{lane->target->name, lane->delivered - lane->told_delivered,
                                  lane->waiting() + lane->left(), lane->refused - lane->told_refused};
            tell(*lane);
            report_.waiting += line.waiting;
            if (line.delivered != 0 || line.waiting != 0 || line.refused != 0) {
                report_.channels.push_back(line);
            }
        }
    }
    std::sort(report_.channels.begin(), report_.channels.end(), [](const frame_line& a, const frame_line& b) {
        return a.delivered != b.delivered ? a.delivered > b.delivered : a.channel < b.channel;
    });
}

} // namespace courier::inline WIRED_COURIER_ABI
