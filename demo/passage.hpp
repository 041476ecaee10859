// From reef to reef: barges that have landed here sail on, and others come in.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <map>
#include <set>
#include <string>
#include <string_view>

namespace reef {

/// A barge is on its way from one reef to the next, or home.
struct BargeSails {
    std::string barge;
    std::string from;
    int crates = 0;
    int lost = 0;  ///< crates, up to now
    int calls = 0; ///< reefs that it has been at
};

/// How a reef stands; for those who look from afar.
struct ReefBoard {
    std::string hour;
    int afloat = 0;
    int sailed = 0;
    int lost = 0;    ///< crates, in this night
    int fathoms = 0; ///< over the bar, as the office says; 0: it has not

    friend bool operator==(const ReefBoard&, const ReefBoard&) = default;
};

struct Water {
    int fathoms = 0; ///< over the bar
};

/// How much water is over the bar? Lighthouses ask the office, which is elsewhere.
struct WaterAsked {
    using answer = Water;
    int hour = 0;
};

class passage {
public:
    passage(std::string reef, std::string next, barges& convoy, night_log& log);

    /// Where barges sail to: "reef-2", "office".
    [[nodiscard]] const courier::addressed_channel<BargeSails, std::string>& sails() const { return sails_; }
    /// Barges that are bound for here.
    [[nodiscard]] courier::channel<BargeSails>& expected() { return expected_; }
    [[nodiscard]] const courier::channel<ReefBoard>& board() const { return board_; }
    /// What the office says of the water.
    void note(Water now) { fathoms_ = now.fathoms; }

    void step(std::string_view hour);

private:
    struct guest {
        std::string name;
        int lost_before = 0;
        int calls = 0;
    };

    void welcome(const BargeSails& what);
    void sail_on(const Moored& what);

    std::string reef_;
    std::string next_;
    barges& convoy_;
    night_log& log_;
    std::map<int, guest> guests_; ///< by their number here
    std::set<std::string> known_; ///< names of all that came
    int sailed_ = 0;
    int lost_ = 0;
    int fathoms_ = 0;
    ReefBoard shown_;
    courier::addressed_channel<BargeSails, std::string> sails_{"passage.sails"};
    courier::channel<BargeSails> expected_{"passage.expected"};
    courier::channel<ReefBoard> board_{"passage.board"};
    courier::subscriber in_{"passage"};
};

} // namespace reef
