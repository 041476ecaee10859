#include "tides.hpp"

#include "stages.hpp"

#include <courier/verdict.hpp>

#include <fmt/format.h>

namespace reef {

namespace {

constexpr int bar = 6;     // cables from the berths
constexpr int draught = 2; // fathoms

} // namespace

tides::tides(const barges& convoy, night_log& log) : log_(log) {
    log_.expect("tides");
    in_.subscribe(convoy.move_asked(),
                  [this](const MoveAsked& ask) {
                      log_.heard("tides");
                      const bool crosses_bar = ask.to <= bar;
                      if (!crosses_bar || water_over_bar_ > draught) {
                          return courier::verdict::go_on;
                      }
                      log_.react("tides", fmt::format("forbid it: {} fathoms over the bar", water_over_bar_));
                      return courier::verdict::stop;
                  },
                  {.stage = rules});
}

} // namespace reef
