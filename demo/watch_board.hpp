// A board that shows the keepers how the night stands.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"

#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

#include <map>
#include <string>

namespace reef {

struct Note {
    std::string text;
};

class watch_board {
public:
    watch_board(std::string name, const barges& convoy, courier::wiring& wires, courier::outbox& later, night_log& log);

    /// "2 moored, 79 crates in, 1 lost, next 12 cables off"
    [[nodiscard]] std::string text() const;

    /// Barges moored, crates landed, and crates lost.
    [[nodiscard]] const courier::state<int>& moored() const { return moored_; }
    [[nodiscard]] const courier::state<int>& crates() const { return crates_; }
    [[nodiscard]] const courier::state<int>& lost() const { return lost_; }

private:
    std::string name_;
    night_log& log_;
    courier::channel<BoardChanged> changed_{"board.changed"};
    courier::poster<BoardChanged> change_; ///< however often in a frame, it shows once
    courier::state<int> moored_{"board.moored", 0};
    courier::state<int> crates_{"board.crates", 0};
    courier::state<int> lost_{"board.lost", 0};
    std::map<int, int> to_go_; ///< cables, of the barges seen under way
    courier::subscriber in_;
};

} // namespace reef
