#include "harbour.hpp"

#include "names.hpp"
#include "stages.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>
#include <vector>

namespace reef {

harbour::harbour(const barges& fleet, const watch& hours, courier::hub& reef, night_log& log)
    : fleet_(fleet), log_(log), hails_(reef.channel(hails), "harbour") {
    log_.expect("harbour");
    keep_register();
    in_.subscribe(hours.storm_broke(), [this] { hail_convoy({.order = "reef your sails"}); });
    in_.subscribe(hours.dawn_came(), [this] { hail_convoy({.order = "make for the berths"}); });
    in_.subscribe(fleet.moved(), [this](const BargeMoved& e) { hail(e.barge, {.order = "show a light"}); },
                  {.stage = presentation, .condition = [](const BargeMoved& e) { return e.to_go <= 6; }});
    // The office's line is down while it storms.
    in_.answer(reef.query<DepthAsked>(),
               [](const DepthAsked& q) -> std::optional<Depth> {
                   return Depth{.fathoms = q.by_the_moon(), .source = "harbour office"};
               },
               {.during = hours.hours().in(hour::dusk, hour::dawn)});
}

void harbour::keep_register() {
    const auto note = [this](const barge& b, const char* what) {
        log_.heard("harbour");
        log_.react("register", fmt::format("notes: {} {}", b.name(), what));
    };
    const auto& life = fleet_.life();
    in_.subscribe(life.appeared(), [note](const courier::appeared<barge>& e) { note(e.object, "is launched"); });
    in_.subscribe(life.woke(), [note](const courier::woke<barge>& e) { note(e.object, "casts off"); });
    in_.subscribe(life.slept(), [note](const courier::slept<barge>& e) { note(e.object, "is made fast"); });
}

void harbour::hail(int barge, Hailed what) {
    log_.publish_to("harbour", hails_, hails.text(), barge, fmt::format("barge {}", barge), what);
    show_others({barge});
}

void harbour::hail_convoy(Hailed what) {
    log_.heard("harbour");
    const auto& convoy = fleet_.convoy();
    log_.publish_to("harbour", hails_, hails.text(), convoy, fmt::format("convoy of {}", convoy.size()), what);
    show_others(convoy.members());
}

void harbour::hail_the_overdue() {
    hail(9, {.order = "show a light"});
}

void harbour::show_others(const std::vector<int>& addressed) {
    std::vector<int> others = fleet_.afloat();
    std::erase_if(others,
                  [&](int number) { return std::find(addressed.begin(), addressed.end(), number) != addressed.end(); });
    if (!others.empty()) {
        log_.remark(fmt::format("not addressed: barge {}", fmt::join(others, ", ")));
    }
}

} // namespace reef
