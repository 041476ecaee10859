// What each barge is about, as its signal mast shows it.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/reactions.hpp>
#include <courier/sequence.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <set>

namespace reef {

class posture {
public:
    posture(int count, const barges& fleet, courier::timetable& hours, night_log& log);

private:
    /// What the mast of one barge shows.
    void hoist(courier::subscriber& in, int barge);

    /// From the first bite until the pumps have won.
    courier::sequence<> take_water(int barge);

    const barges& fleet_;
    courier::timetable& hours_;
    night_log& log_;
    std::set<int> leaking_;
    courier::channel<TakingWater> taking_water_{"barges.taking_water"};
    courier::subscriber in_{"signal masts"};
    courier::reactions<int> masts_; ///< one of them for each barge
};

} // namespace reef
