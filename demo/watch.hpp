// The watch: dusk, storm and dawn.
#pragma once

#include "dice.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/phases.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>

#include <string_view>

namespace reef {

enum class hour { dusk, storm, dawn };

class watch {
public:
    watch(int frames, night_log& log);

    [[nodiscard]] const courier::channel<StormBroke>& storm_broke() const { return storm_broke_; }
    [[nodiscard]] const courier::channel<DawnCame>& dawn_came() const { return dawn_came_; }
    [[nodiscard]] const courier::channel<GullsSettled>& gulls_settled() const { return gulls_settled_; }

    /// "dusk", "storm" or "dawn".
    [[nodiscard]] const courier::state<std::string_view>& phase() const { return phase_; }

    /// Dusk, then the storm, then dawn.
    [[nodiscard]] const courier::phases<hour>& hours() const { return hours_; }

    [[nodiscard]] std::string_view phase_at(int frame) const;
    void step(int frame, dice& chance);

private:
    int storm_at_;
    int dawn_at_;
    night_log& log_;
    courier::state<std::string_view> phase_{"watch.phase", "dusk"};
    courier::phases<hour> hours_{"watch", hour::dusk, {{hour::dusk, {hour::storm}}, {hour::storm, {hour::dawn}}}};
    courier::channel<StormBroke> storm_broke_{"watch.storm_broke"};
    courier::channel<DawnCame> dawn_came_{"watch.dawn_came"};
    courier::channel<GullsSettled> gulls_settled_{"weather.gulls_settled"};
    courier::subscriber in_{"watch"};
};

} // namespace reef
