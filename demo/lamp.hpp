// The lamp: sweeps to every wyrm it can reach, while it is lit.
#pragma once

#include "night_log.hpp"
#include "wyrms.hpp"

#include <courier/subscriber.hpp>

namespace reef {

class lamp {
public:
    lamp(wyrms& out_there, night_log& log);

    /// A lamp that is out hears nothing; lit again, it hears as before.
    void put_out() { in_.pause(); }
    void light() { in_.resume(); }
    [[nodiscard]] bool lit() const { return !in_.paused(); }

private:
    void on_sighted(const WyrmSighted& sighting);

    wyrms& out_there_;
    night_log& log_;
    courier::subscriber in_{"lamp"};
};

} // namespace reef
