// The lamp: sweeps to where it is told, while it is lit.
#pragma once

#include "night_log.hpp"
#include "wyrms.hpp"

#include <courier/state.hpp>
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
    lamp(wyrms& out_there, courier::wiring& wires, night_log& log);

    /// A lamp that is out does nothing; lit again, it does as before.
    void put_out() {
        in_.pause();
        lit_.set(false);
    }
    void light() {
        in_.resume();
        lit_.set(true);
    }
    [[nodiscard]] const courier::state<bool>& lit() const { return lit_; }

private:
    night_log& log_;
    courier::state<bool> lit_{"lamp.lit", true};
    courier::subscriber in_{"lamp"};
};

} // namespace reef
