// The lamp: sweeps to where it is told. It is there while it is lit, in the level "lamp room".
#pragma once

#include "night_log.hpp"
#include "wyrms.hpp"

#include <courier/hub_values.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

namespace reef {

struct Sweep {
    int wyrm;
    int bearing; ///< degrees, clockwise from north
};
struct FallShort {
    int distance; ///< cables
};

class lamp {
public:
    lamp(courier::hub& reef, wyrms& out_there, courier::wiring& wires, night_log& log);
    lamp(const lamp&) = delete;
    lamp& operator=(const lamp&) = delete;
    ~lamp() { lit_.set(false); }

private:
    night_log& log_;
    courier::state<bool>& lit_; ///< the night's, which stays when the lamp is out
    courier::subscriber in_{"lamp"};
};

/// Whether it burns.
inline courier::state<bool>& lamp_lit(courier::hub& reef) {
    return reef.state<bool>("lamp.lit");
}

} // namespace reef
