// Reef wyrms: surface, close in, bite, and flee from the lamp.
#pragma once

#include "barges.hpp"
#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/subscriber.hpp>

#include <map>
#include <vector>

namespace reef {

class wyrms {
public:
    wyrms(barges& convoy, courier::outbox& later, night_log& log)
        : convoy_(convoy), log_(log), bites_(later, convoy.bitten()) {}

    [[nodiscard]] const courier::channel<WyrmSighted>& sighted() const { return sighted_; }
    [[nodiscard]] const courier::channel<WyrmDrivenOff>& driven_off() const { return driven_off_; }

    /// The lamp lights one up.
    void dazzle(int wyrm);

    void step(int frame, bool storm, dice& chance);

private:
    struct wyrm {
        int number;
        int distance; ///< cables to the convoy
    };

    void bite(const wyrm& w, dice& chance);

    barges& convoy_;
    night_log& log_;
    courier::poster<BargeBitten> bites_; ///< all of a frame are delivered together
    std::vector<wyrm> up_;
    std::map<int, int> bitten_off_; ///< in this frame: crates of each barge
    int seen_ = 0;
    courier::channel<WyrmSighted> sighted_{"wyrms.sighted"};
    courier::channel<WyrmDrivenOff> driven_off_{"wyrms.driven_off"};
};

} // namespace reef
