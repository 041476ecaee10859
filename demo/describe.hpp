// Payloads as text for the night's log.
#pragma once

#include "payloads.hpp"

#include <string>
#include <string_view>

namespace reef {

std::string describe(const StormBroke& e);
std::string describe(const DawnCame& e);
std::string describe(const GullsSettled& e);
std::string describe(const Flashed& e);
std::string describe(const Thundered& e);
std::string describe(const MoveAsked& e);
std::string describe(const BargeMoved& e);
std::string describe(const Moored& e);
std::string describe(const WyrmSighted& e);
std::string describe(const WyrmDrivenOff& e);
std::string describe(const BargeBitten& e);
std::string describe(const TakingWater& e);
std::string describe(const TableAsked& e);
std::string describe(const TableSent& e);
std::string describe(const Hailed& e);
std::string describe(const WatchOrder& e);
std::string describe(const StoodTo& e);
std::string describe(const OrderFilled& e);
std::string describe(const FlagRaised& e);

/// "whale", ...
std::string_view name_of(flag shown);

} // namespace reef
