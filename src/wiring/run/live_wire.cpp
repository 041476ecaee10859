// SPDX-License-Identifier: MIT
#include "wiring/run/live_wire.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/followers.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

bool fire(live_wire& wire, const void* payload) {
    if (wire.is_quick) [[likely]] {
        wire.fire_quickly(payload);
        return false;
    }
    return wire.fire(payload, wire.needs_address ? address_here() : nullptr);
}

live_wire::live_wire(const wire_plan& plan, std::string its_label, std::shared_ptr<cause_base> its_cause,
                     std::shared_ptr<wire_allowance> allows, std::source_location where)
    : label(std::move(its_label)), cause(std::move(its_cause)), allowed(std::move(allows)),
      after(time_span(std::chrono::duration<double>(plan.after))),
      every(time_span(std::chrono::duration<double>(plan.every))), enabled(plan.enabled), stops(plan.stops),
      is_plain(plan.after == 0 && plan.every == 0 && plan.times == 0 && plan.otherwise.empty() && !plan.stops),
      where_(where), plan_(plan.target) {}

void live_wire::bind(target_finder& find) {
    leader_ = &find.leader();
    allowed->users.push_back(this); // here, since a draft may be prepared by another thread
    is_user_ = true;
    log.told = find.failures();
    log.wire = &label;
    if (!plan_.name.empty()) {
        target = find.target(plan_.name);
        target->users.push_back(this);
    }
    if (!plan_.group.empty()) {
        group = find.group(plan_.group);
    }
    needs_address = group != nullptr;
    for (std::vector<live_step>* const all : {&steps, &otherwise}) {
        for (live_step& one : *all) {
            one.bind(find);
            needs_address = needs_address || one.needs_event_address();
        }
    }
    is_quick = is_plain && group == nullptr && steps.size() == 1 && steps.front().is_quick();
}

live_wire::~live_wire() {
    if (is_user_) {
        std::erase(allowed->users, this);
    }
    leave_target();
}

void live_wire::stop_hearing() noexcept {
    if (key_) {
        in_->end(*std::exchange(key_, std::nullopt));
    }
}

// Before the actions, which may set it off once more.
void live_wire::use_up() noexcept {
    if (allowed->is_limited && --allowed->times == 0) {
        for (live_wire* const one : allowed->users) {
            one->stop_hearing();
        }
    }
}

void live_wire::leave_target() noexcept {
    if (target != nullptr) {
        std::erase(target->users, this);
    }
}

void live_wire::attach() {
    if (is_over_ || !enabled || allowed->is_used_up()) {
        return;
    }
    if (!in_) {
        const followed_when_made none(nullptr);
        in_.emplace(label);
        in_->follow(*leader_);
        access::party_of(*in_).comes_back = true;
        on ? in_->resume() : in_->pause();
    }
    stop_hearing();
    if (target != nullptr && target->address != nullptr && target->key != cause->address_key) {
        log.keep(cause->name, "'" + target->name + "' is a " + target->kind + ", which it is not for");
    } else if (!waits_for_target()) {
        key_ = cause->attach(*in_, *this, target != nullptr ? target->address.get() : nullptr,
                             {place, during, where_, needs_address, stops});
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

bool live_wire::fire(const void* payload, const void* address) {
    if (!is_for_group(address) || (allowed->last && hours->now() - *allowed->last < every)) {
        miss(turn::condition);
        return false;
    }
    const bool it_holds = holds(payload);
    if (!it_holds && otherwise.empty()) {
        miss(turn::condition);
        return false;
    }
    const held until_then(*this); // an action may end it
    const std::shared_ptr<const void> own = own_address();
    const value_sources sources{payload, nullptr, nullptr, own != nullptr ? own.get() : address};
    if (!it_holds) {
        ++otherwise_done;
        act(otherwise, {}, sources);
        return false;
    }
    ++caused;
    if (every != game_time{}) {
        allowed->last = hours->now();
    }
    use_up();
    act(steps, after, sources);
    return stops;
}

bool live_wire::try_with(const void* payload) {
    const bool it_holds = holds(payload);
    const held until_then(*this);
    const std::shared_ptr<const void> own = own_address();
    first_failure thrown; // a trial does everything at once, also what has an `after`
    for (const live_step& one : it_holds ? steps : otherwise) {
        if (!is_over_) {
            thrown.run([&] { one.run({payload, nullptr, nullptr, own.get()}, log, is_over_); });
        }
    }
    thrown.rethrow();
    return it_holds;
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

void live_wire::act(const std::vector<live_step>& all, game_time wait, const value_sources& sources) {
    first_failure thrown;
    std::vector<filled_step> together; // all that waits as long as the wire does
    for (const live_step& one : all) {
        if (is_over_) {
            break;
        }
        if (one.after != game_time{}) {
            std::vector<filled_step> alone;
            alone.push_back(one.fill(sources));
            delay(std::move(alone), later_by(wait, one.after));
        } else if (wait != game_time{}) {
            together.push_back(one.fill(sources));
        } else {
            thrown.run([&] { one.run(sources, log, is_over_); });
        }
    }
    if (!together.empty() && !is_over_) {
        delay(std::move(together), wait);
    }
    thrown.rethrow();
}

void live_wire::delay(std::vector<filled_step>&& filled, game_time wait) {
    auto shared = std::make_shared<std::vector<filled_step>>(std::move(filled));
    in_->after(
        *hours, wait,
        [this, shared] {
            const held until_then(*this);
            // This function may end with the wire. NOLINTNEXTLINE(performance-unnecessary-copy-initialization)
            const std::shared_ptr<std::vector<filled_step>> kept = shared;
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
