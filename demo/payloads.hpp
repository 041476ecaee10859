// What happens at Gannet Reef, as the systems tell one another.
#pragma once

#include <courier/query.hpp>

#include <string_view>

namespace reef {

/// The storm has broken. Nothing more to say.
struct StormBroke {};

/// First light: the night is over.
struct DawnCame {};

/// The gulls have settled on the lantern rail.
struct GullsSettled {};

/// Lightning; how far off, in cables (a tenth of a nautical mile).
struct Flashed {
    int distance;
};

/// The thunder that belongs to a flash, when it has come.
struct Thundered {
    int distance; ///< cables
};

/// A barge wants to move on. Whoever has to may forbid it.
struct MoveAsked {
    int barge;
    int to; ///< cables still to go after the move
};

struct BargeMoved {
    int barge;
    int to_go; ///< cables
};

/// A barge is safely alongside.
struct Moored {
    int barge;
    int berth;
    int crates; ///< landed in good order
    int lost;   ///< crates lost on the way
    int frame;
};

struct WyrmSighted {
    int wyrm;
    int bearing;  ///< degrees, clockwise from north
    int distance; ///< cables
};

struct WyrmDrivenOff {
    int wyrm;
};

struct BargeBitten {
    int barge;
    int wyrm;
    int crates; ///< lost to this bite
};

/// A barge takes water, or has been pumped dry.
struct TakingWater {
    int barge;
    bool holds;
};

/// The harbour office is asked to send its tide table over.
struct TableAsked {};

/// It comes.
struct TableSent {
    std::string_view source;
};

/// The harbour calls a barge by its number.
struct Hailed {
    using address = int;
    std::string_view order;
};

/// Something to look out for, whatever it is.
struct DangerSeen {
    std::string_view what;
    int distance; ///< cables
};

struct WatchOrder {
    std::string_view what;
};

/// A hand is where it was ordered to.
struct StoodTo {
    int hand;
};

struct Depth {
    int fathoms; ///< over the bar
    std::string_view source;
};

/// How much water is over the bar? Asked of the harbour office, else of the
/// copy on disk, else of the table that ships.
struct DepthAsked {
    using answer = Depth;
    static constexpr auto answered = courier::answering::in_order;
    int hour;

    /// What any table says.
    [[nodiscard]] int by_the_moon() const { return 1 + hour % 5; }
};

enum class flag { whale, gull, anchor };

/// A flag is up at the signal hoist.
struct FlagRaised {
    flag shown;
    int up; ///< how many are up now
};

/// What a watch board shows has changed; how often in a frame is all one.
struct BoardChanged {};

struct OrderFilled {
    std::string_view buyer;
    int crates;
};

} // namespace reef
