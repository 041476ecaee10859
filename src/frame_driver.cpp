#include <courier/frame_driver.hpp>

#include <courier/detail/first_failure.hpp>

#include <algorithm>

namespace courier::inline WIRED_COURIER_ABI {

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
        report_.arrived += inboxes_[i]->take_in();
    }
    for (std::size_t i = 0; i < timetables_.size(); ++i) {
        failed.run([&] { report_.due += timetables_[i]->advance(step); });
    }
    deliver_stages(failed);
    count_channels();
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

// Lanes are few, and most frames see the same ones in the same order.
void frame_driver::count_channels() {
    report_.channels.clear();
    report_.waiting = 0;
    now_.clear();
    std::size_t expected = 0;
    for (const stage& s : stages_) {
        for (const auto& lane : detail::access::outbox(*s.box)->lanes) {
            const std::size_t waiting = lane->waiting() + lane->left();
            auto found = before_.begin() + static_cast<std::ptrdiff_t>(std::min(expected, before_.size()));
            if (found == before_.end() || found->lane != lane.get()) {
                found =
                    std::find_if(before_.begin(), before_.end(), [&](const counts& c) { return c.lane == lane.get(); });
            }
            const bool known = found != before_.end() && found->delivered <= lane->delivered;
            const std::uint64_t delivered = lane->delivered - (known ? found->delivered : 0);
            const std::uint64_t refused = lane->refused - (known ? found->refused : 0);
            now_.push_back({lane.get(), lane->delivered, lane->refused});
            ++expected;
            report_.waiting += waiting;
            if (delivered != 0 || waiting != 0 || refused != 0) {
                report_.channels.push_back({lane->target->name, delivered, waiting, refused});
            }
        }
    }
    before_.swap(now_);
    std::sort(report_.channels.begin(), report_.channels.end(), [](const frame_line& a, const frame_line& b) {
        return a.delivered != b.delivered ? a.delivered > b.delivered : a.channel < b.channel;
    });
}

} // namespace courier::inline WIRED_COURIER_ABI
