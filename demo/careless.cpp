#include "careless.hpp"

#include <courier/accept_finding.hpp>
#include <courier/wait/next.hpp>

#include <chrono>

namespace reef {

namespace {

void paint_for_too_long() {
    const auto until = std::chrono::steady_clock::now() + std::chrono::milliseconds(20);
    while (std::chrono::steady_clock::now() < until) {}
}

} // namespace

careless::careless(const barges& convoy, const wyrms& out_there, courier::hub& reef, courier::outbox& later)
    : convoy_(convoy), later_(later), reef_(reef) {
    courier::accept_finding({.code = courier::finding_code::unheard,
                             .channel = "careless.fog_bell",
                             .reason = "nobody is near enough to hear it"}); // it was taken down years ago
    diver_.subscribe(*wreck_, [] {});
    deaf_bell_.subscribe(out_there.sighted(), [] {});
    deaf_bell_.subscribe(convoy_.moved(), [] {});
    deaf_bell_.pause();
    eavesdropper_.subscribe(silence_, [] {});
    watchman_.subscribe(hails_, [] {});
    for (int i = 0; i < 2; ++i) {
        twice_.subscribe(painted_, [this] { static_cast<void>(convoy_); });
    }
    twice_.subscribe(turned_, [] {});
    slow_.subscribe(painted_, &paint_for_too_long);
    fishwives_.subscribe(heard_, [this](const Rumour& e) { later_.post(told_, {.told = e.told}); });
    fishwives_.subscribe(told_, [this](const Rumour& e) {
        if (e.told < 5) {
            later_.post(heard_, {.told = e.told + 1});
        }
    });
    stranded_.start(wait_for_relief());
    cook_.subscribe(rationed_, [this] { return cook_is_cross_ ? courier::verdict::stop : courier::verdict::go_on; });
    mate_.subscribe(rationed_, [] {});
    clerk_.subscribe(reef_.channel<GullsCounted>(), [] {});
    postman_.subscribe(letters_, [] {});
    present_.reports_from(mustered_, &Rumour::told);
    sign_painter_.keep_current([this] { sign_ = 0; }); // whose number of gulls is read elsewhere
}

courier::sequence<> careless::wait_for_relief() {
    co_await courier::next(relief_);
}

void careless::step(int frame) {
    if (frame == 5) {
        wreck_->publish({});
    } else if (frame == 20) {
        wreck_.reset();
    }
    if (frame % 16 == 8) {
        whispered_.publish();
        painted_.publish({.bearing = frame});
        cook_is_cross_ = !cook_is_cross_;
        rationed_.publish({.gulls = frame});
        reef_.channel<GullsCounted>().publish({.gulls = frame});
    }
    count_gulls();
    turn_lamp(frame);
    pass_on_rumours(frame);
    hail_the_sunk(frame);
    write_home(frame);
    forgetful_.after(hours_, std::chrono::hours(10), [] {});
    hours_.advance(std::chrono::milliseconds(500));
}

void careless::count_gulls() {
    counters_.push_back(counted_.subscribe([](const GullsCounted&) {}));
    if (counters_.size() % 10 == 0) {
        counted_.publish({.gulls = static_cast<int>(counters_.size())});
    }
}

void careless::turn_lamp(int frame) {
    turned_.publish({.bearing = frame * 3 % 360});
}

void careless::pass_on_rumours(int frame) {
    if (frame == 30) {
        heard_.publish({.told = 0});
    }
}

void careless::hail_the_sunk(int frame) {
    if (frame % 40 == 39) {
        hails_.publish_to(99, {.order = "come alongside"});
    }
}

void careless::write_home(int frame) {
    if (frame == 12) {
        never_delivered_.post(letters_, {.told = frame});
        mustered_.publish({.told = 99}); // of a crew of three
    }
}

} // namespace reef
