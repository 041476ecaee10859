#include "watch_board.hpp"

#include "stages.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace reef {

watch_board::watch_board(std::string name, const barges& convoy, courier::wiring& wires, courier::outbox& later,
                         night_log& log)
    : name_(std::move(name)), log_(log), change_(later, changed_, {.keep = courier::keep::one}), in_(name_) {
    log_.expect(name_);
    in_.subscribe(convoy.moored(),
                  [this](const Moored& e) {
                      moored_.add(1);
                      to_go_.erase(e.barge);
                      crates_.add(e.crates);
                      change_.post({});
                  },
                  {.stage = presentation});
    in_.subscribe(convoy.moved(),
                  [this](const BargeMoved& e) {
                      log_.heard(name_);
                      to_go_[e.barge] = e.to_go;
                  },
                  {.stage = presentation});
    in_.subscribe(convoy.bitten(),
                  [this](const BargeBitten& e) {
                      lost_.add(e.crates);
                      change_.post({});
                  },
                  {.stage = presentation});
    in_.subscribe(changed_, [this] {
        log_.heard(name_);
        log_.react(name_, fmt::format("shows: {}", text()));
    });
    wires.action<Note>(in_, "board.note", [this](const Note& n) {
        log_.heard(name_);
        log_.react(name_, "notes: " + n.text);
    });
}

std::string watch_board::text() const {
    std::string line =
        fmt::format("{} moored, {} crates in, {} lost", moored_.glance(), crates_.glance(), lost_.glance());
    const auto next = std::min_element(to_go_.begin(), to_go_.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    if (next != to_go_.end()) {
        line += fmt::format(", next {} cables off", next->second);
    }
    return line;
}

} // namespace reef
