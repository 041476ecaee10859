#include "passage.hpp"

#include <fmt/format.h>

#include <utility>

namespace reef {

passage::passage(std::string reef, std::string next, barges& convoy, night_log& log)
    : reef_(std::move(reef)), next_(std::move(next)), convoy_(convoy), log_(log) {
    in_.subscribe(convoy.moored(), [this](const Moored& m) { sail_on(m); });
    in_.subscribe(convoy.bitten(), [this](const BargeBitten& b) { lost_ += b.crates; });
    in_.subscribe(expected_, [this](const BargeSails& s) { welcome(s); });
}

// The office tells a lighthouse that has come back what it had; some of that may be here.
void passage::welcome(const BargeSails& what) {
    if (!known_.insert(what.barge).second) {
        return;
    }
    const int number = convoy_.come_in(what.crates);
    guests_[number] = {what.barge, what.lost, what.calls};
    log_.remark(fmt::format("barge {} of {} comes in with {} crates, as number {}", what.barge, what.from, what.crates,
                            number));
}

void passage::sail_on(const Moored& what) {
    const auto found = guests_.find(what.barge);
    guest one{fmt::format("{}/{}", reef_, what.barge), 0, 0};
    if (found != guests_.end()) {
        one = found->second;
    }
    ++sailed_;
    sails_.publish_to(next_, {one.name, reef_, what.crates, one.lost_before + what.lost, one.calls + 1});
}

void passage::step(std::string_view hour) {
    const ReefBoard now{std::string(hour), static_cast<int>(convoy_.afloat().size()), sailed_, lost_, fathoms_};
    if (now != shown_) {
        shown_ = now;
        board_.publish(now);
    }
}

} // namespace reef
