// The convoy: asks leave to move, moves, moors, and loses crates to bites.
#pragma once

#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <vector>

namespace reef {

class barges {
public:
    barges(int count, int distance, night_log& log);

    [[nodiscard]] const courier::channel<MoveAsked>& move_asked() const { return move_asked_; }
    [[nodiscard]] const courier::channel<BargeMoved>& moved() const { return moved_; }
    [[nodiscard]] const courier::channel<Moored>& moored() const { return moored_; }

    /// Wyrms publish their bites here; the right to do so is handed to them.
    [[nodiscard]] courier::channel<BargeBitten>& bitten() { return bitten_; }
    [[nodiscard]] const courier::channel<BargeBitten>& bitten() const { return bitten_; }

    void step(int frame, dice& chance);

    /// Barges still under way.
    [[nodiscard]] std::vector<int> afloat() const;

private:
    struct barge {
        int number;
        int to_go;
        int crates;
        int lost;
        bool moored;
    };

    void move(barge& b, int frame, dice& chance);

    night_log& log_;
    std::vector<barge> fleet_;
    int berths_taken_ = 0;
    courier::channel<MoveAsked> move_asked_{"barges.move_asked"};
    courier::channel<BargeMoved> moved_{"barges.moved"};
    courier::channel<Moored> moored_{"barges.moored"};
    courier::channel<BargeBitten> bitten_{"barges.bitten"};
    courier::subscriber in_{"barges"};
};

} // namespace reef
