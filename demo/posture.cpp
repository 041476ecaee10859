#include "posture.hpp"

#include "stages.hpp"

#include <courier/pipeline.hpp>
#include <courier/wait.hpp>

#include <fmt/format.h>

#include <chrono>
#include <optional>
#include <string>

namespace reef {

namespace {

constexpr std::chrono::seconds pumping{3}; // of game time, since the newest bite

} // namespace

posture::posture(int count, const barges& fleet, courier::timetable& hours, night_log& log)
    : fleet_(fleet), hours_(hours), log_(log),
      masts_("signal masts", [this](courier::subscriber& in, int barge) { hoist(in, barge); }) {
    log_.expect("signal masts");
    for (int barge = 1; barge <= count; ++barge) {
        masts_.attach(barge);
    }
    in_.subscribe(fleet.bitten(), [this](const BargeBitten& e) {
        if (leaking_.insert(e.barge).second) {
            in_.start(take_water(e.barge));
        }
    });
}

// Under sail or made fast, but taking water comes before either.
void posture::hoist(courier::subscriber& in, int barge) {
    const auto own = [barge](const auto& e) { return e.barge == barge; };
    const auto sailing = fleet_.moved() | courier::filter(own) |
                         courier::transform([](const BargeMoved&) { return std::string{"under sail"}; });
    const auto fast = fleet_.moored() | courier::filter(own) |
                      courier::transform([](const Moored&) { return std::string{"made fast"}; });
    const auto leaking = taking_water_ | courier::filter(own) |
                         courier::transform([](const TakingWater& e) -> std::optional<std::string> {
                             return e.holds ? std::optional<std::string>{"taking water"} : std::nullopt;
                         });
    in.subscribe(courier::merge(sailing, fast) | courier::overridden_by(leaking) | courier::only_changes(),
                 [this, barge](const std::string& shows) {
                     log_.heard("signal masts");
                     log_.react(fmt::format("barge {}", barge), fmt::format("hoists: {}", shows));
                 },
                 {.stage = presentation});
}

courier::sequence<> posture::take_water(int barge) {
    const std::string name = fmt::format("barge {}", barge);
    log_.publish(name, taking_water_, {.barge = barge, .holds = true});
    const auto bitten_again = [barge](const BargeBitten& e) { return e.barge == barge; };
    while (co_await courier::within(hours_, pumping, courier::next(fleet_.bitten(), bitten_again))) {
        log_.react(name, "pumps on");
    }
    leaking_.erase(barge);
    log_.publish(name, taking_water_, {.barge = barge, .holds = false});
}

} // namespace reef
