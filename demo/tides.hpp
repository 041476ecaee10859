// The tide tables: at slack water over the bar nobody moves.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"

#include <courier/subscriber.hpp>

namespace reef {

class tides {
public:
    tides(const barges& convoy, night_log& log);

    void step(int frame) { water_over_bar_ = 1 + (frame / 6) % 5; }

private:
    night_log& log_;
    int water_over_bar_ = 1; ///< fathoms
    courier::subscriber in_{"tides"};
};

} // namespace reef
