#include "watch_board.hpp"

#include "stages.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace reef {

watch_board::watch_board(std::string name, const barges& convoy, const watch& hours, night_log& log)
    : name_(std::move(name)), log_(log), in_(name_) {
    in_.subscribe(convoy.moored(),
                  [this](const Moored& e) {
                      ++moored_;
                      nearest_ = 0;
                      crates_ += e.crates;
                      show();
                  },
                  {.stage = presentation});
    in_.subscribe(convoy.moved(), [this](const BargeMoved& e) { nearest_ = std::min(nearest_, e.to_go); },
                  {.stage = presentation});
    in_.subscribe(convoy.bitten(),
                  [this](const BargeBitten& e) {
                      lost_ += e.crates;
                      show();
                  },
                  {.stage = presentation});
    in_.subscribe(
        hours.flashed(),
        [this](const Flashed& e) { log_.react(name_, fmt::format("notes lightning at {} cables", e.distance)); },
        {.stage = presentation, .condition = [](const Flashed& e) { return e.distance <= 10; }});
}

std::string watch_board::text() const {
    return fmt::format("{} moored, {} crates in, {} lost, nearest {} cables off", moored_, crates_, lost_, nearest_);
}

void watch_board::show() {
    log_.react(name_, fmt::format("shows: {}", text()));
}

} // namespace reef
