// The convoy: asks leave to move, moves, moors, and loses crates to bites.
#pragma once

#include "barge.hpp"
#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/group.hpp>
#include <courier/hub.hpp>
#include <courier/lifecycle.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <memory>
#include <vector>

namespace reef {

class barges {
public:
    barges(int count, int distance, const courier::hub& reef, night_log& log);

    [[nodiscard]] const courier::channel<MoveAsked>& move_asked() const { return move_asked_; }
    [[nodiscard]] const courier::channel<BargeMoved>& moved() const { return moved_; }
    [[nodiscard]] const courier::channel<Moored>& moored() const { return moored_; }

    /// What becomes of each barge.
    [[nodiscard]] const courier::lifecycle_channels<barge>& life() const { return life_; }

    /// Those under way, by number.
    [[nodiscard]] const courier::group<int>& convoy() const { return convoy_; }

    /// Wyrms publish their bites here; the right to do so is handed to them.
    [[nodiscard]] courier::channel<BargeBitten>& bitten() { return bitten_; }
    [[nodiscard]] const courier::channel<BargeBitten>& bitten() const { return bitten_; }

    /// Puts the barges into the water, so that whoever follows their lives can
    /// be there before.
    void launch();
    /// One more, from elsewhere, with what it carries; its number.
    int come_in(int crates);
    void step(int frame, dice& chance);

    /// Barges still under way.
    [[nodiscard]] std::vector<int> afloat() const;
    [[nodiscard]] int crates(int number) const { return fleet_[static_cast<std::size_t>(number - 1)]->crates(); }

private:
    void move(barge& b, int frame, dice& chance);

    int count_;
    int distance_;
    const courier::addressed_channel<Hailed>& hails_;
    night_log& log_;
    courier::lifecycle_channels<barge> life_{"barge"};
    courier::group<int> convoy_{"convoy"};
    std::vector<std::unique_ptr<barge>> fleet_;
    int berths_taken_ = 0;
    courier::channel<MoveAsked> move_asked_{"barges.move_asked"};
    courier::channel<BargeMoved> moved_{"barges.moved"};
    courier::channel<Moored> moored_{"barges.moored"};
    courier::channel<BargeBitten> bitten_{"barges.bitten"};
    courier::subscriber in_{"barges"};
};

} // namespace reef
