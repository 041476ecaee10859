// SPDX-License-Identifier: MIT
#include "wiring/run/wiring_core.hpp"
#include "wiring/check/checker.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/hold_back.hpp>
#include <courier/detail/base/type_name.hpp>

#include <algorithm>
#include <optional>
#include <unordered_map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Of the phases that are offered under that name now; never once they are gone.
struct test_of_phase {
    std::shared_ptr<offered_phases> of;
    std::size_t phase;
    [[nodiscard]] bool holds() const noexcept { return !of->core->over && of->core->now == phase; }
};

} // namespace

wiring_core::~wiring_core() {
    clear();
    for (const auto& [named, place] : targets) {
        place->told = nullptr;
    }
}

std::shared_ptr<const offer_list> wiring_core::list() {
    if (listed_ == nullptr) {
        auto made = std::make_shared<offer_list>();
        made->all = make_list();
        made->causes = causes;
        made->actions = actions;
        made->stages = stages;
        made->hours = hours;
        listed_ = std::move(made);
    }
    return listed_;
}

void wiring_core::add(std::unique_ptr<cause_base> cause) {
    const auto [known, is_new] = cause_numbers_.try_emplace(cause->name, causes.size());
    if (is_new) {
        causes.push_back(std::move(cause));
    } else if (cause_base& before = *causes[known->second]; before.is_alike(*cause)) {
        before.maker = before.maker != nullptr ? before.maker : cause->maker;
        before.take_over(*cause);
        attach_wires_of(before);
        return;
    } else {
        causes[known->second] = std::move(cause);
    }
    offers_changed(!is_new);
}

void wiring_core::attach_wires_of(const cause_base& cause) {
    if (sorted_ != in_force) {
        waiting_.clear();
        for (const wire_row& row : in_force->rows) {
            waiting_[row.wire->cause.get()].push_back(row.wire);
        }
        sorted_ = in_force;
    }
    if (const auto found = waiting_.find(&cause); found != waiting_.end()) {
        first_failure thrown;
        for (live_wire* const one : found->second) {
            thrown.run([one] { one->attach(); });
        }
        thrown.rethrow();
    }
}

void wiring_core::add(query_entry asked) {
    std::erase_if(queries, [&](const query_entry& one) { return one.name == asked.name; });
    queries.push_back(std::move(asked));
    offers_changed();
}

void wiring_core::add(std::string_view its_name, phases_core& core) {
    const auto known =
        std::find_if(phases.begin(), phases.end(), [&](const auto& one) { return one->name == its_name; });
    if (known != phases.end() && (*known)->core->names == core.names) {
        (*known)->core = held(core);
        return;
    }
    offers_changed(known != phases.end());
    std::erase_if(phases, [&](const auto& one) { return one->name == its_name; });
    phases.push_back(std::make_shared<offered_phases>(std::string(its_name), held(core)));
}

void wiring_core::add(const port& value, std::source_location where) {
    const followed_when_made none(nullptr);
    add(std::make_unique<value_cause>(value, where));
}

void wiring_core::add(hub_core& hub, std::source_location where) {
    const auto each = [this, where](const port& one) {
        const payload_kind* const kind = one.core->kind;
        if (one.value != nullptr) {
            if (one.value->after != nullptr && one.value->copier != nullptr && kind != nullptr &&
                kind->fields != nullptr) {
                add(one, where);
            }
        } else if (one.ops != nullptr && !kind->is_internal) {
            add(std::make_unique<port_cause>(one));
        } else if (one.ops == nullptr && kind != nullptr) {
            add(query_entry{one.core->name, shape_of(kind->fields, kind->name), {}});
        }
    };
    std::erase_if(hubs_, [&](const auto& one) { return one->of() == nullptr || one->of() == &hub; });
    hubs_.push_back(std::make_unique<hub_watch>(hub, each));
}

void wiring_core::offers_changed(bool is_replaced) noexcept {
    listed_.reset();
    ++offers_;
    is_replaced_ = is_replaced_ || is_replaced;
}

catalogue wiring_core::make_list() const {
    catalogue all;
    all.program = name;
    for (const std::shared_ptr<cause_base>& one : causes) {
        channel_entry entry{one->name, shape_of(one->fields, one->type), kind_of_object(one->address_type),
                            one->state != nullptr, false};
        all.channels.push_back(std::move(entry));
    }
    std::unordered_map<const action_base*, std::string> declared; // with the state that each of them sets
    for (const std::shared_ptr<made_state>& one : made_) {
        all.channels[cause_numbers_.at(one->name)].is_declared = true;
        for (const std::shared_ptr<action_base>& action : one->actions) {
            declared.emplace(action.get(), one->name);
        }
    }
    for (const std::shared_ptr<action_base>& one : actions) {
        action_entry entry{
            one->name, shape_of(one->fields, one->parameters_type, true), kind_of_object(one->address_type), {}, {},
            false};
        if (const auto known = announced.find(one->name); known != announced.end()) {
            entry.announces = known->second;
        }
        if (const auto state = declared.find(one.get()); state != declared.end()) {
            entry.is_declared = true;
            entry.announces.push_back(state->second);
        }
        if (one->answer != nullptr) {
            entry.answer = shape_of(*one->answer);
        }
        all.actions.push_back(std::move(entry));
    }
    for (const std::shared_ptr<offered_phases>& one : phases) {
        phases_entry entry{one->name, {}};
        for (std::size_t i = 0; i < one->core->allowed.size(); ++i) {
            if (!one->core->names[i].empty()) {
                entry.phases.emplace_back(one->core->names[i]);
            }
        }
        all.phases.push_back(std::move(entry));
    }
    for (const courier::stage one : stages) {
        all.stages.emplace_back(one.name());
    }
    all.queries = queries;
    for (const auto& [named, place] : groups) {
        if (place->members != nullptr) {
            all.groups.push_back({named, kind_of_object(place->members->address_type)});
        }
    }
    for (const auto& [named, place] : targets) {
        if (place->address != nullptr) {
            all.targets.push_back({named, place->kind});
        }
    }
    return all;
}

std::shared_ptr<target_place> wiring_core::target(const std::string& wanted) {
    std::shared_ptr<target_place>& there = targets[wanted];
    if (there == nullptr) {
        there = std::make_shared<target_place>();
        there->name = wanted;
        there->told = this;
    }
    return there;
}

std::shared_ptr<group_place> wiring_core::group(const std::string& wanted) {
    std::shared_ptr<group_place>& there = groups[wanted];
    if (there == nullptr) {
        there = std::make_shared<group_place>(wanted, nullptr);
    }
    return there;
}

void wiring_core::add(std::shared_ptr<const group_source> members) {
    const std::shared_ptr<group_place> place = group(members->name);
    const bool is_alike = place->members != nullptr && place->members->address_key == members->address_key;
    place->members = std::move(members);
    if (!is_alike) {
        offers_changed();
    }
}

void wiring_core::target_has_come(const target_place& which) {
    targets_changed();
    const std::vector<live_wire*> users = which.users; // whoever attaches changes nothing, but may throw
    for (live_wire* const one : users) {
        one->attach();
    }
}

courier::during wiring_core::during_of(const std::vector<phase_plan>& wanted, const set_plan* set) const {
    static const std::vector<phase_plan> none;
    const std::vector<phase_plan>& of_set = set != nullptr ? set->during : none;
    const auto tests_of = [&](const std::vector<phase_plan>& plans) {
        std::vector<test_of_phase> tests;
        for (const phase_plan& plan : plans) {
            for (const std::shared_ptr<offered_phases>& one : phases) {
                for (std::size_t i = 0; i < one->core->allowed.size() && one->name == plan.phases; ++i) {
                    if (one->core->names[i] == plan.phase) {
                        tests.push_back({one, i});
                    }
                }
            }
        }
        return tests;
    };
    if (wanted.empty() && of_set.empty()) {
        return {};
    }
    return [own = tests_of(wanted), sets = tests_of(of_set)] {
        const auto any = [](const std::vector<test_of_phase>& tests) {
            return tests.empty() ||
                   std::any_of(tests.begin(), tests.end(), [](const auto& one) { return one.holds(); });
        };
        return any(own) && any(sets);
    };
}

std::unique_ptr<draft_parts> wiring_core::begin() {
    auto made = std::make_unique<draft_parts>();
    renew(*made);
    return made;
}

void wiring_core::renew(draft_parts& draft) {
    draft.has = list();
    draft.base = in_force;
    draft.offers = offers_;
    draft.keeps_none = is_replaced_;
}

bool wiring_core::is_on(const wire_table& table, std::uint32_t set) const {
    if (set == no_set) {
        return true;
    }
    const auto switched = switched_.find(table.sets[set].name);
    return switched != switched_.end() ? switched->second : table.sets[set].on;
}

void wiring_core::check_draft(draft_parts& draft) {
    if (!draft.is_prepared) {
        draft.prepare();
    }
    if (draft.base != in_force || draft.offers != offers_) { // it was overtaken
        renew(draft);
        draft.prepare();
    }
    if (!draft.faults.empty()) {
        throw wiring_error(draft.faults);
    }
}

wiring_change wiring_core::take(draft_parts& draft) {
    check_draft(draft);
    const hold_all_back until_then; // what attaching brings about may load others
    std::optional<offered> before;
    unless_done undone([&] {
        if (before) {
            go_back_to(std::move(*before));
        }
    });
    if (draft.changes_states) {
        before = now_offered();
        make_states(draft);
        check_draft(draft);
    }
    wire_table& next = *draft.next;
    std::vector<std::filesystem::path> named = draft.named;
    for (std::size_t i = 0; i < draft.fresh.size(); ++i) {
        const wire_plan& plan = draft.plan.wires[draft.fresh[i]];
        live_wire& wire = *draft.made[i];
        wire.during = during_of(plan.during, next.set(plan.set));
        wire.bind(*this);
        wire.switch_to(is_on(next, next.rows[draft.fresh[i]].set));
        wire.attach();
    }
    // Nothing is thrown from here on.
    undone.done();
    for (std::size_t i = 0; i < draft.fresh.size(); ++i) {
        next.rows[draft.fresh[i]].wire = draft.made[i].let_go();
    }
    draft.made.clear();
    wiring_change change;
    change.added = draft.fresh.size();
    change.removed = draft.removed.size();
    change.kept = next.rows.size() - change.added;
    const std::shared_ptr<const wire_table> old = std::exchange(in_force, draft.next);
    is_replaced_ = false;
    files.swap(named);
    switch_kept(*old, next);
    for (const std::size_t i : draft.removed) {
        const auto gone = wire_held::taking_over(old->rows[i].wire);
        change.dropped += gone->end();
    }
    return change;
}

/// Sets that are on or off by default otherwise than before.
void wiring_core::switch_kept(const wire_table& before, const wire_table& after) {
    for (std::uint32_t set = 0; set < after.sets.size(); ++set) {
        const set_plan* const old = before.set(after.sets[set].name);
        if (old == nullptr || old->on == after.sets[set].on) {
            continue;
        }
        for (const wire_row& row : after.rows) {
            if (row.set == set) {
                row.wire->switch_to(is_on(after, set));
            }
        }
    }
}

bool wiring_core::switch_set(std::string_view set, bool on) {
    const std::shared_ptr<const wire_table> table = in_force;
    const set_plan* const found = table->set(set);
    if (found == nullptr) {
        return false;
    }
    switched_.insert_or_assign(std::string(set), on);
    const auto number = static_cast<std::uint32_t>(found - table->sets.data());
    for (const wire_row& row : table->rows) {
        if (row.set == number) {
            row.wire->switch_to(on);
        }
    }
    return true;
}

void wiring_core::clear() {
    const std::shared_ptr<const wire_table> before = std::exchange(in_force, std::make_shared<const wire_table>());
    for (const wire_row& row : before->rows) {
        const auto gone = wire_held::taking_over(row.wire);
        gone->end();
    }
    const std::vector<std::shared_ptr<made_state>> declared = made_;
    for (const std::shared_ptr<made_state>& one : declared) {
        take_out(one);
        offers_changed();
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
