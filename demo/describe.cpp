#include "describe.hpp"

#include <fmt/format.h>

namespace reef {

std::string describe(const StormBroke&) {
    return {};
}
std::string describe(const DawnCame&) {
    return {};
}
std::string describe(const GullsSettled&) {
    return {};
}
std::string describe(const Flashed& e) {
    return fmt::format("distance {}", e.distance);
}
std::string describe(const Thundered& e) {
    return fmt::format("distance {}", e.distance);
}
std::string describe(const MoveAsked& e) {
    return fmt::format("barge {}, to {}", e.barge, e.to);
}
std::string describe(const BargeMoved& e) {
    return fmt::format("barge {}, to_go {}", e.barge, e.to_go);
}
std::string describe(const Moored& e) {
    return fmt::format("barge {}, berth {}, crates {}, lost {}, frame {}", e.barge, e.berth, e.crates, e.lost, e.frame);
}
std::string describe(const WyrmSighted& e) {
    return fmt::format("wyrm {}, bearing {}, distance {}", e.wyrm, e.bearing, e.distance);
}
std::string describe(const WyrmDrivenOff& e) {
    return fmt::format("wyrm {}", e.wyrm);
}
std::string describe(const BargeBitten& e) {
    return fmt::format("barge {}, wyrm {}, crates {}", e.barge, e.wyrm, e.crates);
}
std::string describe(const TakingWater& e) {
    return fmt::format("barge {}, holds {}", e.barge, e.holds);
}
std::string describe(const TableAsked&) {
    return {};
}
std::string describe(const TableSent& e) {
    return fmt::format("source {}", e.source);
}
std::string describe(const Hailed& e) {
    return fmt::format("order {}", e.order);
}
std::string describe(const WatchOrder& e) {
    return fmt::format("what {}", e.what);
}
std::string describe(const StoodTo& e) {
    return fmt::format("hand {}", e.hand);
}
std::string describe(const OrderFilled& e) {
    return fmt::format("buyer {}, crates {}", e.buyer, e.crates);
}
std::string describe(const FlagRaised& e) {
    return fmt::format("shown {}, up {}", name_of(e.shown), e.up);
}

std::string_view name_of(flag shown) {
    return shown == flag::whale ? "whale" : shown == flag::gull ? "gull" : "anchor";
}

} // namespace reef
