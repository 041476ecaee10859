#include "tides.hpp"

#include "stages.hpp"

#include <fmt/format.h>

namespace reef {

namespace {

constexpr int bar = 6;     // cables from the berths
constexpr int draught = 2; // fathoms

std::string over_the_bar(const Depth& water) {
    return fmt::format("{} fathom{} over the bar, says the {}", water.fathoms, water.fathoms == 1 ? "" : "s",
                       water.source);
}

} // namespace

tides::tides(const barges& convoy, const courier::query<DepthAsked>& depth, night_log& log) : depth_(depth), log_(log) {
    log_.expect("tides");
    in_.subscribe<&tides::on_move_asked>(convoy.move_asked(), *this, {.stage = rules});
}

void tides::update() {
    hour_ = frame_++ / 6;
    if (const std::optional<Depth> water = depth(); water && water->source != source_) {
        source_ = water->source;
        log_.react("tides", "ask again: " + over_the_bar(*water));
    }
}

courier::verdict tides::on_move_asked(const MoveAsked& ask) {
    log_.heard("tides");
    if (ask.to > bar) {
        return courier::verdict::go_on;
    }
    const std::optional<Depth> water = depth();
    if (water && water->fathoms > draught) {
        return courier::verdict::go_on;
    }
    log_.react("tides", "forbid it: " + (water ? over_the_bar(*water) : "nobody knows the depth"));
    return courier::verdict::stop;
}

} // namespace reef
