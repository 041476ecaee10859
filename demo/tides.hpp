// The tides: at slack water over the bar nobody moves.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/query.hpp>
#include <courier/subscriber.hpp>
#include <courier/verdict.hpp>

#include <optional>
#include <string>
#include <string_view>

namespace reef {

class tides {
public:
    tides(const barges& convoy, const courier::query<DepthAsked>& depth, night_log& log);

    /// Once a frame; the hour comes with them.
    void update();

private:
    courier::verdict on_move_asked(const MoveAsked& ask);
    [[nodiscard]] std::optional<Depth> depth() const { return depth_.ask({.hour = hour_}); }

    const courier::query<DepthAsked>& depth_;
    night_log& log_;
    int frame_ = 0;
    int hour_ = 0;
    std::string_view source_; ///< of the newest answer
    courier::subscriber in_{"tides"};
};

} // namespace reef
