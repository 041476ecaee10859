// SPDX-License-Identifier: MIT
#include "wiring/run/live_wire.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/followers.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void fire(live_wire& wire, const void* payload, const void* address) {
    if (wire.is_quick) [[likely]] {
        wire.fire_quickly(payload);
    } else {
        wire.fire(payload, address);
    }
}

live_wire::live_wire(const wire_plan& plan, std::string its_label, std::shared_ptr<cause_base> its_cause,
                     std::source_location where)
    : label(std::move(its_label)), cause(std::move(its_cause)),
      after(time_span(std::chrono::duration<double>(plan.after))),
      every(time_span(std::chrono::duration<double>(plan.every))), times(plan.times), is_limited(plan.times != 0),
      enabled(plan.enabled), is_plain(plan.after == 0 && plan.every == 0 && plan.times == 0), where_(where),
      plan_(plan.target) {}

void live_wire::bind(target_finder& find) {
    leader_ = &find.leader();
    log.told = find.failures();
    log.wire = &label;
    if (!plan_.name.empty()) {
        target = find.target(plan_.name);
        target->users.push_back(this);
    }
    if (!plan_.group.empty()) {
        group = find.group(plan_.group);
    }
    for (live_step& one : steps) {
        one.bind(find);
    }
    needs_address = group != nullptr || std::any_of(steps.begin(), steps.end(),
                                                    [](const live_step& one) { return one.needs_event_address(); });
    is_quick = is_plain && group == nullptr && steps.size() == 1 && steps.front().is_quick();
}

live_wire::~live_wire() {
    leave_target();
}

void live_wire::leave_target() noexcept {
    if (target != nullptr) {
        std::erase(target->users, this);
    }
}

void live_wire::attach() {
    if (is_over_ || !enabled || is_used_up()) {
        return;
    }
    if (!in_) {
        const followed_when_made none(nullptr);
        in_.emplace(label);
        in_->follow(*leader_);
        access::party_of(*in_).comes_back = true;
        on ? in_->resume() : in_->pause();
    }
    if (key_) {
        in_->end(*std::exchange(key_, std::nullopt));
    }
    if (target != nullptr && target->address != nullptr && target->key != cause->address_key) {
        log.keep(cause->name, "'" + target->name + "' is a " + target->kind + ", which it is not for");
    } else if (!waits_for_target()) {
        key_ = cause->attach(*in_, *this, target != nullptr ? target->address.get() : nullptr,
                             {place, during, where_, needs_address});
    }
}

void live_wire::switch_to(bool its_set_is_on) {
    on = its_set_is_on;
    if (in_) { // else it is told when it is attached
        on ? in_->resume() : in_->pause();
    }
}

std::size_t live_wire::end() noexcept {
    is_over_ = true;
    leave_target();
    in_.reset();
    return delayed;
}

bool live_wire::holds(const void* payload) const noexcept {
    return std::all_of(tests.begin(), tests.end(), [payload](const live_test& one) { return one.holds(payload); });
}

// That of its target, where it has one: then every event is for that object.
std::shared_ptr<const void> live_wire::own_address() const {
    return needs_address && target != nullptr ? target->address : nullptr;
}

// What is published for all is for each of them.
bool live_wire::is_for_group(const void* address) const {
    return group == nullptr || address == nullptr ||
           (group->members != nullptr && group->members->address_key == cause->address_key &&
            group->members->has(address));
}

void live_wire::fire(const void* payload, const void* address) {
    if (!is_for_group(address) || !holds(payload) || (last_ && hours->now() - *last_ < every)) {
        miss(turn::condition);
        return;
    }
    ++caused;
    const held until_then(*this); // an action may end it
    if (every != game_time{}) {
        last_ = hours->now();
    }
    if (is_limited && --times == 0 && key_) { // before the actions, which may set it off once more
        in_->end(*std::exchange(key_, std::nullopt));
    }
    const std::shared_ptr<const void> own = own_address();
    const value_sources sources{payload, nullptr, nullptr, own != nullptr ? own.get() : address};
    if (after == game_time{}) {
        run(sources);
    } else {
        delay(sources);
    }
}

bool live_wire::try_with(const void* payload) {
    if (!holds(payload)) {
        return false;
    }
    const held until_then(*this);
    const std::shared_ptr<const void> own = own_address();
    run({payload, nullptr, nullptr, own.get()});
    return true;
}

void live_wire::fire_quickly(const void* payload) {
    if (!holds(payload)) {
        miss(turn::condition);
        return;
    }
    ++caused;
    const held until_then(*this);
    steps.front().run_quickly(payload, log, is_over_);
}

void live_wire::run(const value_sources& sources) {
    first_failure thrown;
    for (const live_step& one : steps) {
        if (!is_over_) {
            thrown.run([&] { one.run(sources, log, is_over_); });
        }
    }
    thrown.rethrow();
}

void live_wire::delay(const value_sources& sources) {
    auto filled = std::make_shared<std::vector<filled_step>>();
    for (const live_step& one : steps) {
        filled->push_back(one.fill(sources));
    }
    in_->after(
        *hours, after,
        [this, filled] {
            const held until_then(*this);
            // This function may end with the wire. NOLINTNEXTLINE(performance-unnecessary-copy-initialization)
            const std::shared_ptr<std::vector<filled_step>> kept = filled;
            --delayed;
            first_failure thrown;
            for (const filled_step& one : *kept) {
                if (!is_over_) {
                    thrown.run([&] { one.step->run_filled(one, {}, log, is_over_); });
                }
            }
            thrown.rethrow();
        },
        where_);
    ++delayed;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
