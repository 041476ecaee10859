// SPDX-License-Identifier: MIT
#include "wiring/run/wire_table.hpp"

#include "data/named_place.hpp"

#include <algorithm>
#include <unordered_map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

const set_plan* wire_table::set(std::string_view name) const noexcept {
    return find_set(sets, name);
}

std::shared_ptr<value_cause> offer_list::state(const std::string& wanted) const {
    for (const std::shared_ptr<cause_base>& one : causes) {
        if (one->name == wanted && one->state != nullptr) {
            return std::static_pointer_cast<value_cause>(one);
        }
    }
    return nullptr;
}

namespace {

/// Where wires go that keep events from others: in front of all.
constexpr courier::stage rules = courier::stage::begin("wiring rules");

live_step make_step(const step_plan& plan, const cause_base& cause, const value_type* answer, const std::string& file,
                    const offer_list& has) {
    const std::shared_ptr<action_base>& action = has.actions[plan.action];
    live_step made(plan, action, cause, answer, has, named_place(file, plan.at.line));
    made.after = time_span(std::chrono::duration<double>(plan.after));
    for (const step_plan& one : plan.success) {
        made.success.push_back(make_step(one, cause, action->answer, file, has));
    }
    for (const step_plan& one : plan.failure) {
        made.failure.push_back(make_step(one, cause, answer, file, has));
    }
    return made;
}

} // namespace

wire_held make_wire(const wire_plan& plan, const wire_table& table, const offer_list& has,
                    std::shared_ptr<wire_allowance> allows) {
    const std::string& file = table.files[plan.at.file].name;
    const std::string label = !plan.name.empty()  ? plan.name
                              : !plan.use.empty() ? plan.use
                                                  : "wire " + std::filesystem::path(file).filename().string() + ":" +
                                                        std::to_string(plan.at.line);
    const std::shared_ptr<cause_base>& cause = has.causes[plan.cause];
    auto made =
        wire_held::taking_over(new live_wire(plan, label, cause, std::move(allows), named_place(file, plan.at.line)));
    made->hours = has.hours;
    made->tests.reserve(plan.conditions.size());
    made->steps.reserve(plan.steps.size());
    for (const condition_plan& one : plan.conditions) {
        made->tests.emplace_back(one, *cause, has);
    }
    for (const step_plan& one : plan.steps) {
        made->steps.push_back(make_step(one, *cause, nullptr, file, has));
    }
    for (const step_plan& one : plan.otherwise) {
        made->otherwise.push_back(make_step(one, *cause, nullptr, file, has));
    }
    if (plan.stops) {
        made->place = rules;
    }
    for (const courier::stage one : has.stages) {
        if (one.name() == plan.stage) {
            made->place = one;
        }
    }
    return made;
}

void draft_parts::read(fault_list& into) {
    if (!is_text) {
        document = {};
        read_files(named, document, into);
    } else if (document.parsed.empty()) {
        const wiring_text text = std::move(document.files.front());
        document.files.clear();
        read_text(text.name, text.text, document, into);
    }
}

namespace {

bool needs_timetable(const wire_plan& wire) {
    const auto waits = [](const step_plan& one) { return one.after != 0; };
    return wire.after != 0 || wire.every != 0 || std::any_of(wire.steps.begin(), wire.steps.end(), waits) ||
           std::any_of(wire.otherwise.begin(), wire.otherwise.end(), waits);
}

/// Those of wires with several causes, by family.
using allowances = std::unordered_map<std::uint32_t, std::shared_ptr<wire_allowance>>;

std::shared_ptr<wire_allowance> allowance_for(const wire_plan& wire, allowances& known) {
    if (wire.family == 0) {
        return std::make_shared<wire_allowance>(wire);
    }
    std::shared_ptr<wire_allowance>& there = known[wire.family];
    if (there == nullptr) {
        there = std::make_shared<wire_allowance>(wire);
    }
    return there;
}

} // namespace

void draft_parts::prepare() {
    fault_list all(document.files);
    if (!is_prepared) {
        read(all);
        is_read = all.empty();
        faults = all.take();
    }
    is_prepared = true;
    next = nullptr;
    if (!is_read) {
        return;
    }
    const declarations declared(document.parsed, has->all, all);
    states = declared.states();
    changes_states = declared.differ();
    plan = check_wiring(document.parsed, document.store, declared.all(), all);
    for (const wire_plan& one : plan.wires) {
        if (has->hours == nullptr && needs_timetable(one)) {
            all.add(wiring_code::missing_key, one.at, "this program has no timetable for 'after' and 'every'",
                    "its code gives one: wiring::use()");
        }
    }
    faults = all.take();
    if (faults.empty() && !changes_states) {
        compare_with_base();
    }
}

void draft_parts::compare_with_base() {
    std::unordered_map<wire_print, std::size_t, wire_print_hash> known;
    if (!keeps_none) {
        known.reserve(base->rows.size());
        for (std::size_t i = 0; i < base->rows.size(); ++i) {
            known.emplace(base->rows[i].identity, i);
        }
    }
    std::vector<bool> is_kept(base->rows.size());
    allowances shared;
    fresh.clear();
    removed.clear();
    made.clear();
    next = std::make_shared<wire_table>();
    next->sets = plan.sets;
    next->files = document.files;
    next->paths = document.paths;
    next->times = document.times;
    next->rows.reserve(plan.wires.size());
    for (std::size_t i = 0; i < plan.wires.size(); ++i) {
        const wire_plan& one = plan.wires[i];
        wire_row& row = next->rows.emplace_back();
        row.identity = one.identity;
        row.at = one.at;
        if (const set_plan* const its = one.set.empty() ? nullptr : next->set(one.set); its != nullptr) {
            row.set = static_cast<std::uint32_t>(its - next->sets.data());
        }
        if (const auto found = known.find(one.identity); found != known.end()) {
            row.wire = base->rows[found->second].wire;
            is_kept[found->second] = true;
            known.erase(found);
            if (one.family != 0) {
                shared[one.family] = row.wire->allowed;
            }
        } else {
            fresh.push_back(i);
        }
    }
    for (const std::size_t i : fresh) {
        made.push_back(make_wire(plan.wires[i], *next, *has, allowance_for(plan.wires[i], shared)));
    }
    for (std::size_t i = 0; i < is_kept.size(); ++i) {
        if (!is_kept[i]) {
            removed.push_back(i);
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
