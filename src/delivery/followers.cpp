// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/followers.hpp>

#include "delivery/follower_list.hpp"
#include "delivery/slots.hpp"
#include "delivery/subscriptions.hpp"

#include <courier/detail/base/hold_back.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

constinit thread_local followers* making_for = nullptr;
constinit thread_local unsigned ending_levels = 0;

bool is_level_ending() noexcept {
    return ending_levels != 0;
}

followed_when_made::followed_when_made(followers* whom) noexcept : before_(std::exchange(making_for, whom)) {}

followed_when_made::~followed_when_made() {
    making_for = before_;
}

void silence(party& who) noexcept {
    for (slot* s = who.first; s != nullptr; s = s->next) {
        block(*s, block_owner_paused);
    }
    if (who.led != nullptr) {
        who.led->sleep();
    }
}

void unsilence(party& who) noexcept {
    const hold_all_back until_then; // refreshers and sequences that go on may do anything
    for (slot* s = who.first; s != nullptr; s = s->next) {
        unblock(*s, block_owner_paused);
    }
    if (who.led != nullptr) {
        who.led->wake();
    }
}

void end_all_of(party& who) noexcept {
    const held own(who); // a capture may hold its subscriber, and go
    while (own->first != nullptr) {
        detach(*own->first);
    }
}

void fall_asleep(party& who) noexcept {
    if (who.asleep++ == 0 && !who.paused) {
        silence(who);
    }
}

void wake_up(party& who) noexcept {
    if (--who.asleep == 0 && !who.paused) {
        unsilence(who);
    }
}

followers& followers_of(party& who) {
    if (who.led == nullptr) {
        who.led = new followers(!who.is_silent());
    }
    return *who.led;
}

void add_follower(followers& to, party& who) {
    to.add(who);
}

followers::~followers() {
    over_ = true;
    while (all_ != nullptr && !all_->each.empty()) {
        const held<party> last = std::move(all_->each.back().who);
        all_->each.pop_back();
        end_all_of(*last);
        if (!awake_) {
            wake_up(*last);
        }
    }
    delete all_;
}

void followers::add(party& who, bool is_made_inside) {
    if (over_) {
        return;
    }
    if (all_ == nullptr) {
        all_ = new follower_list;
    }
    std::vector<follower>& each = all_->each;
    if (each.size() == each.capacity()) {
        std::erase_if(each, [](const follower& one) { return one.who->ended; });
        each.reserve(2 * each.size() + 1);
    }
    each.push_back({held(who), is_made_inside});
    if (!awake_) {
        fall_asleep(who);
    }
}

void followers::wake() noexcept {
    if (!std::exchange(awake_, true) && all_ != nullptr) {
        const hold_all_back until_then;
        for (const follower& one : all_->each) {
            wake_up(*one.who);
        }
    }
}

void followers::sleep() noexcept {
    if (std::exchange(awake_, false) && all_ != nullptr) {
        const hold_all_back until_then;
        for (const follower& one : all_->each) {
            fall_asleep(*one.who);
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
