#include "crew.hpp"

#include <fmt/format.h>

#include <cstddef>

namespace reef {

crew::crew(int hands, const watch& hours, courier::outbox& later, night_log& log)
    : log_(log), slate_("crew.slate", [this, &hours] {
          if (hours.phase().read() != "storm") {
              return std::string{"all hands below"}; // how many stand to is all one then
          }
          return fmt::format("{} of {} stand to", standing_.read(), expected_.read());
      }) {
    log_.expect("crew");
    for (int i = 1; i <= hands; ++i) {
        aboard_.emplace(i, hands_.join(i));
        hand(i, hours);
    }
    in_.subscribe(ready_.progress(), [this](const courier::tally_progress<int>& p) {
        courier::together([&] {
            standing_.set(static_cast<int>(p.reported));
            expected_.set(static_cast<int>(p.expected));
        });
    });
    ready_.expect_group(hands_);
    ready_.reports_from(stood_to_, &StoodTo::hand);
    in_.subscribe(ready_.at_least(3), [this](const courier::tally_reached& r) {
        log_.react("mate", fmt::format("counts {} of {}: enough for the boats", r.reported, r.expected));
    });
    in_.subscribe(ready_.completed(), [this](const courier::tally_completed& c) {
        log_.react("mate", fmt::format("counts {}: all hands stand to", c.reported));
    });
    in_.keep_current(later, [this] { log_.react("slate", "says: " + slate_.read()); });
    in_.subscribe(hours.storm_broke(), [this] { order("stand to"); });
}

void crew::hand(int number, const watch& hours) {
    in_.subscribe(ordered_,
                  [this, number] {
                      log_.heard("crew");
                      if (hands_.has(number)) {
                          on_their_way_.push_back(number);
                      }
                  },
                  {.during = hours.hours().in(hour::storm)});
}

void crew::order(std::string_view what) {
    if (!log_.publish("mate", ordered_, {.what = what}).heard()) {
        log_.remark("no storm watch: the hands stay below");
    }
}

void crew::step(dice& chance) {
    if (on_their_way_.empty() || !chance.one_in(2)) {
        return;
    }
    const auto next = static_cast<std::size_t>(chance.between(0, static_cast<int>(on_their_way_.size()) - 1));
    const int number = on_their_way_[next];
    on_their_way_.erase(on_their_way_.begin() + static_cast<std::ptrdiff_t>(next));
    log_.publish(fmt::format("hand {}", number), stood_to_, {.hand = number});
}

void crew::lose_one() {
    if (on_their_way_.empty()) {
        return;
    }
    const int number = on_their_way_.back();
    on_their_way_.pop_back();
    log_.remark(fmt::format("hand {} goes overboard", number));
    aboard_.erase(number);
}

} // namespace reef
