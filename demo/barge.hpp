// One barge: an object that says what becomes of it.
#pragma once

#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/group.hpp>
#include <courier/lifecycle.hpp>
#include <courier/subscriber.hpp>

#include <string>

namespace reef {

class barge final {
public:
    /// `hails` is where it is spoken to, by its number.
    barge(int number, int to_go, courier::lifecycle_channels<barge>& life,
          const courier::addressed_channel<Hailed>& hails, night_log& log);

    [[nodiscard]] int number() const { return number_; }
    [[nodiscard]] std::string name() const { return "barge " + std::to_string(number_); }
    [[nodiscard]] int to_go() const { return to_go_; }
    [[nodiscard]] int crates() const { return crates_; }
    [[nodiscard]] int lost() const { return lost_; }
    [[nodiscard]] bool moored() const { return moored_; }

    void load(int crates) { crates_ = crates; }
    void lose(int crates);
    void cast_off(courier::group<int>& convoy);
    void move_to(int to_go) { to_go_ = to_go; }
    void moor();

private:
    int number_;
    int to_go_; ///< cables
    int crates_ = 40;
    int lost_ = 0;
    bool moored_ = false;
    courier::membership<int> in_convoy_; ///< while under way
    courier::subscriber in_;
    courier::lifecycle<barge> life_; ///< last, so that it speaks of a whole barge
};

} // namespace reef
