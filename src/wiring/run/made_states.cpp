// SPDX-License-Identifier: MIT
#include "wiring/run/made_states.hpp"

#include "data/named_place.hpp"
#include "wiring/run/wiring_core.hpp"

#include <courier/detail/delivery/followers.hpp>
#include <courier/detail/values/value_port.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

outcome<void> add_to(state<std::int64_t>& to, std::int64_t amount) {
    constexpr auto least = std::numeric_limits<std::int64_t>::min();
    constexpr auto most = std::numeric_limits<std::int64_t>::max();
    const std::int64_t now = to.read();
    if (amount > 0 ? now > most - amount : now < least - amount) {
        return failed{"the sum is too large"};
    }
    to.set(now + amount);
    return {};
}

outcome<void> add_to(state<double>& to, double amount) {
    const double sum = to.read() + amount;
    if (!std::isfinite(sum)) {
        return failed{"the sum is too large"};
    }
    to.set(sum);
    return {};
}

template <class T>
class made_state_of final : public made_state {
public:
    made_state_of(const declared_state& wanted, T start, const std::string& file)
        : value_(wanted.name, std::move(start)), in_("wiring") {
        const std::source_location where = named_place(file, wanted.at.line);
        name = wanted.name;
        kind = wanted.kind;
        cause = std::make_shared<value_cause>(port_of(value_), where);
        add_action<value_to_set<T>>(
            action_that_sets(wanted.name), [this](const value_to_set<T>& to) { value_.set(to.value); }, where);
        if constexpr (std::is_same_v<T, bool>) {
            add_action<no_parameters>(
                action_that_toggles(wanted.name), [this](const no_parameters&) { value_.set(!value_.read()); }, where);
        } else if constexpr (std::is_arithmetic_v<T>) {
            add_action<amount_to_add<T>>(
                action_that_adds(wanted.name), [this](const amount_to_add<T>& by) { return add_to(value_, by.amount); },
                where);
        }
    }

private:
    template <class Parameters, class Function>
    void add_action(const std::string& called, Function function, std::source_location where) {
        auto made = std::make_shared<plain_action<Parameters, void>>(called);
        made->key = key_of_type<plain_action<Parameters, void>>();
        in_.subscribe(
            made->called, [to = made.get(), f = function](const Parameters& p) mutable { to->serve(f, p); }, {}, where);
        actions.push_back(std::move(made));
    }

    state<T> value_;
    subscriber in_;
};

} // namespace

std::shared_ptr<made_state> make_state(const declared_state& wanted, const std::string& file) {
    const followed_when_made none(nullptr); // it is there as long as files declare it
    switch (wanted.kind) {
    case value_kind::truth:
        return std::make_shared<made_state_of<bool>>(wanted, wanted.start.truth, file);
    case value_kind::integer:
        return std::make_shared<made_state_of<std::int64_t>>(wanted, wanted.start.integer, file);
    case value_kind::real:
        return std::make_shared<made_state_of<double>>(wanted, wanted.start.real, file);
    default:
        return std::make_shared<made_state_of<std::string>>(wanted, wanted.start.text, file);
    }
}

void wiring_core::make_states(const draft_parts& draft) {
    bool is_replaced = false;
    const std::vector<std::shared_ptr<made_state>> before = made_;
    for (const std::shared_ptr<made_state>& one : before) {
        const auto wanted = std::find_if(draft.states.begin(), draft.states.end(),
                                         [&](const declared_state& state) { return state.name == one->name; });
        if (wanted == draft.states.end() || wanted->kind != one->kind) {
            take_out(one);
            is_replaced = is_replaced || wanted != draft.states.end();
        }
    }
    for (const declared_state& wanted : draft.states) {
        if (std::any_of(made_.begin(), made_.end(), [&](const auto& one) { return one->name == wanted.name; })) {
            continue;
        }
        const std::shared_ptr<made_state> made = make_state(wanted, draft.document.files[wanted.at.file].name);
        cause_numbers_.emplace(wanted.name, causes.size());
        causes.push_back(made->cause);
        actions.insert(actions.end(), made->actions.begin(), made->actions.end());
        made_.push_back(made);
    }
    offers_changed(is_replaced);
}

void wiring_core::take_out(const std::shared_ptr<made_state>& state) {
    std::erase(made_, state);
    std::erase_if(actions, [&](const auto& one) {
        return std::find(state->actions.begin(), state->actions.end(), one) != state->actions.end();
    });
    std::erase(causes, state->cause);
    cause_numbers_.clear();
    for (std::size_t i = 0; i < causes.size(); ++i) {
        cause_numbers_.emplace(causes[i]->name, i);
    }
}

void wiring_core::go_back_to(offered&& before) noexcept {
    causes.swap(before.causes);
    actions.swap(before.actions);
    made_.swap(before.made);
    cause_numbers_.swap(before.cause_numbers);
    offers_changed(true);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
