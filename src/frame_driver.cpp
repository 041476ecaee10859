#include <courier/frame_driver.hpp>

#include <courier/detail/first_failure.hpp>
#include <courier/detail/ledger_core.hpp>

#include <algorithm>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {

namespace {

void tell(detail::lane_base& lane) noexcept {
    lane.told_delivered = lane.delivered;
    lane.told_refused = lane.refused;
}

} // namespace

frame_driver& frame_driver::take_in(inbox& from, budget most) {
    sources_.push_back(detail::owned<source>(new source{&from, std::move(most), from.refused()}));
    return *this;
}

frame_driver& frame_driver::advance(timetable& hours) {
    timetables_.push_back(&hours);
    return *this;
}

frame_driver& frame_driver::deliver(outbox& box, budget most) {
    stages_.push_back(detail::owned<stage>(new stage{&box, std::move(most)}));
    for (const auto& lane : detail::access::outbox(box)->lanes) {
        tell(*lane); // what was before is not this frame's
    }
    return *this;
}

void frame_driver::leave(const inbox& gone) noexcept {
    for (const auto& s : sources_) {
        s->from = s->from == &gone ? nullptr : s->from;
    }
    if (!running_) {
        std::erase_if(sources_, [](const auto& s) { return s->from == nullptr; });
    }
}

void frame_driver::leave(const timetable& gone) noexcept {
    std::erase(timetables_, &gone);
}

void frame_driver::leave(const outbox& gone) noexcept {
    for (const auto& s : stages_) {
        s->box = s->box == &gone ? nullptr : s->box;
    }
    if (!running_) {
        std::erase_if(stages_, [](const auto& s) { return s->box == nullptr; });
    }
}

const frame_report& frame_driver::run(game_time step) {
    if (running_) {
        return report_;
    }
    detail::first_failure failed;
    ++report_.frame;
    report_.arrived = report_.refused = report_.due = report_.delivered = 0;
    running_ = true; // whatever is called meanwhile may leave some out, or add some
    take_in_sources(failed);
    for (std::size_t i = 0; i < timetables_.size(); ++i) {
        failed.run([&] { report_.due += timetables_[i]->advance(step); });
    }
    deliver_stages(failed);
    running_ = false;
    std::erase_if(sources_, [](const auto& s) { return s->from == nullptr; });
    std::erase_if(stages_, [](const auto& s) { return s->box == nullptr; });
    count_channels();
    if (detail::overseen()) [[unlikely]] {
        const game_time now = timetables_.empty() ? elapsed_ += step : timetables_.front()->now();
        failed.run([&] { detail::note_frame(now.count()); });
    }
    failed.rethrow();
    return report_;
}

void frame_driver::take_in_sources(detail::first_failure& failed) {
    for (std::size_t i = 0; i < sources_.size(); ++i) {
        source& s = *sources_[i];
        if (s.from == nullptr) {
            continue;
        }
        if (!detail::access::feeds(*s.from).is_in_round()) {
            failed.run([&] { report_.arrived += s.from->take_in(s.most); });
        }
        if (s.from != nullptr) { // still
            const std::uint64_t refused = s.from->refused();
            report_.refused += static_cast<std::size_t>(refused - std::exchange(s.refused, refused));
        }
    }
}

void frame_driver::deliver_stages(detail::first_failure& failed) {
    for (std::size_t i = 0; i < stages_.size(); ++i) {
        stage& s = *stages_[i];
        if (s.box == nullptr) {
            continue;
        }
        detail::outbox_core& box = *detail::access::outbox(*s.box);
        retain(box);
        const std::uint64_t before = box.delivered;
        failed.run([&] { s.box->deliver(s.most); });
        report_.delivered += box.delivered - before;
        release(box);
    }
}

void frame_driver::count_channels() {
    report_.channels.clear();
    report_.waiting = 0;
    for (const auto& s : stages_) {
        for (const auto& lane : detail::access::outbox(*s->box)->lanes) {
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
