// What happens at Gannet Reef, as the systems tell one another.
#pragma once

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

struct OrderFilled {
    std::string_view buyer;
    int crates;
};

} // namespace reef
