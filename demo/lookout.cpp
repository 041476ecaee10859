#include "lookout.hpp"

#include <optional>

namespace reef {

namespace {

constexpr int close_by = 10; // cables

std::optional<DangerSeen> when_close(const Flashed& e) {
    if (e.distance > close_by) {
        return std::nullopt;
    }
    return DangerSeen{.what = "lightning", .distance = e.distance};
}

} // namespace

lookout::lookout(const weather& above, const wyrms& out_there)
    : lightning_(above.flashed(), danger_, &when_close), wyrms_(out_there.sighted(), danger_, [](const WyrmSighted& e) {
          return DangerSeen{.what = "wyrm", .distance = e.distance};
      }) {}

} // namespace reef
