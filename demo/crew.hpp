// The hands: stand to in the storm watch, and only then.
#pragma once

#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"
#include "watch.hpp"

#include <courier/channel.hpp>
#include <courier/formula.hpp>
#include <courier/group.hpp>
#include <courier/outbox.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/tally.hpp>

#include <map>
#include <string>
#include <vector>

namespace reef {

class crew {
public:
    /// The slate by the door is written anew at the end of a frame.
    crew(int hands, const watch& hours, courier::outbox& later, night_log& log);

    /// The mate gives an order; hands take it during the storm watch only.
    void order(std::string_view what);

    /// One more hand is where it was ordered to, sooner or later.
    void step(dice& chance);

    [[nodiscard]] const courier::channel<courier::tally_completed>& all_ready() const { return ready_.completed(); }

    /// A hand goes overboard, and is not waited for.
    void lose_one();

private:
    void hand(int number, const watch& hours);

    night_log& log_;
    std::map<int, courier::membership<int>> aboard_;
    std::vector<int> on_their_way_;
    courier::group<int> hands_{"hands"};
    courier::channel<WatchOrder> ordered_{"crew.ordered"};
    courier::channel<StoodTo> stood_to_{"crew.stood_to"};
    courier::tally<int> ready_{"crew.ready"};
    courier::state<int> standing_{"crew.standing", 0};
    courier::state<int> expected_{"crew.expected", 0};
    courier::formula<std::string> slate_; ///< what it says
    courier::subscriber in_{"crew"};
};

} // namespace reef
