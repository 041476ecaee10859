#include "wiring/run/wiring_core.hpp"

#include "wiring/run/wire_place.hpp"

#include <courier/detail/base/type_name.hpp>
#include <courier/wiring/detail/shape.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

wiring_core::~wiring_core() {
    clear();
    for (const auto& [named, place] : targets) {
        place->told = nullptr;
    }
    for (const offered_phases& one : phases) {
        release(*one.core);
    }
}

std::shared_ptr<state_base> wiring_core::state(const std::string& wanted) const {
    for (const std::shared_ptr<cause_base>& one : causes) {
        if (one->name == wanted && one->state != nullptr) {
            return std::static_pointer_cast<state_base>(one);
        }
    }
    return nullptr;
}

namespace {

/// Of an address's type, as people say it.
std::string kind_told(std::string_view type) {
    if (type.empty()) {
        return {};
    }
    std::string plain = plain_type_name(type);
    const std::size_t colon = plain.rfind("::");
    return colon == std::string::npos ? plain : plain.substr(colon + 2);
}

} // namespace

catalogue wiring_core::list() const {
    catalogue all;
    all.program = name;
    for (const std::shared_ptr<cause_base>& one : causes) {
        channel_entry entry{one->name, shape_of(one->fields, one->type), kind_told(one->address_type),
                            one->state != nullptr};
        all.channels.push_back(std::move(entry));
    }
    for (const std::shared_ptr<action_base>& one : actions) {
        action_entry entry{one->name, shape_of(one->fields, one->parameters_type, true), kind_told(one->address_type),
                           {}, {}};
        if (const auto known = announced.find(one->name); known != announced.end()) {
            entry.announces = known->second;
        }
        if (one->answer != nullptr) {
            entry.answer = shape_of(*one->answer);
        }
        all.actions.push_back(std::move(entry));
    }
    for (const offered_phases& one : phases) {
        phases_entry entry{one.name, {}};
        for (std::size_t i = 0; i < one.core->allowed.size(); ++i) {
            if (!one.core->names[i].empty()) {
                entry.phases.emplace_back(one.core->names[i]);
            }
        }
        all.phases.push_back(std::move(entry));
    }
    for (const courier::stage one : stages) {
        all.stages.emplace_back(one.name());
    }
    all.queries = queries;
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

void wiring_core::target_has_come(const target_place& which) {
    for (const wire_held& one : wires) {
        if (one->target.get() == &which) {
            one->attach();
        }
    }
}

courier::during wiring_core::during_of(const std::vector<phase_plan>& wanted,
                                       const std::vector<phase_plan>& of_set) const {
    const auto tests_of = [&](const std::vector<phase_plan>& plans) {
        std::vector<phase_test> tests;
        for (const phase_plan& plan : plans) {
            for (const offered_phases& one : phases) {
                for (std::size_t i = 0; i < one.core->allowed.size() && one.name == plan.phases; ++i) {
                    if (one.core->names[i] == plan.phase) {
                        tests.emplace_back(*one.core, bit_of(i));
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
        const auto any = [](const std::vector<phase_test>& tests) {
            return tests.empty() || std::any_of(tests.begin(), tests.end(), [](const phase_test& t) { return t(); });
        };
        return any(own) && any(sets);
    };
}

live_step wiring_core::step(const step_plan& plan, const wire_plan& wire, const cause_base& cause,
                            const value_type* answer, const std::string& file) {
    const std::shared_ptr<action_base> action = actions[plan.action];
    live_step made(plan, action, plan.target.empty() ? nullptr : target(plan.target), cause, answer, *this,
                   wire_place(file, plan.at.line));
    for (const step_plan& one : plan.success) {
        made.success.push_back(step(one, wire, cause, action->answer, file));
    }
    for (const step_plan& one : plan.failure) {
        made.failure.push_back(step(one, wire, cause, answer, file));
    }
    return made;
}

wire_held wiring_core::make(const wire_plan& plan, const wiring_document& document) {
    const std::string& file = document.files[plan.at.file].name;
    const std::string label = plan.name.empty()
                                  ? "wire " + std::filesystem::path(file).filename().string() + ":" +
                                        std::to_string(plan.at.line)
                                  : plan.name;
    const std::shared_ptr<cause_base> cause = causes[plan.cause];
    wire_held made(new live_wire(plan, label, cause, plan.target.empty() ? nullptr : target(plan.target),
                                 wire_place(file, plan.at.line)));
    made->file = file;
    made->line = plan.at.line;
    made->hours = hours;
    for (const condition_plan& one : plan.conditions) {
        made->tests.emplace_back(one, *cause, *this);
    }
    for (const step_plan& one : plan.steps) {
        made->steps.push_back(step(one, plan, *cause, nullptr, file));
    }
    for (const courier::stage one : stages) {
        if (one.name() == plan.stage) {
            made->place = one;
        }
    }
    const auto set = sets_.find(plan.set);
    made->during = during_of(plan.during, set != sets_.end() ? set->second.during : std::vector<phase_plan>());
    return made;
}

void wiring_core::look_for_timetable(const wiring_plan& plan, fault_list& faults) const {
    for (const wire_plan& one : plan.wires) {
        if (hours == nullptr && (one.after != 0 || one.every != 0)) {
            faults.add(wiring_code::missing_key, one.at, "this program has no timetable for 'after' and 'every'",
                       "its code gives one: wiring::use()");
        }
    }
}

wiring_change wiring_core::take(wiring_document document) {
    fault_list faults(document.files);
    wiring_plan plan = check_wiring(document.parsed, list(), faults);
    look_for_timetable(plan, faults);
    if (!faults.empty()) {
        throw wiring_error(faults.take());
    }
    std::map<std::string, set_plan, std::less<>> before = std::exchange(sets_, {});
    for (const set_plan& one : plan.sets) {
        sets_.emplace(one.name, one);
    }
    wiring_change change;
    std::unordered_multimap<std::string_view, std::size_t> known;
    for (std::size_t i = 0; i < wires.size(); ++i) {
        known.emplace(wires[i]->fingerprint, i);
    }
    std::vector<wire_held> next;
    next.reserve(plan.wires.size());
    std::vector<bool> kept(wires.size());
    std::vector<std::size_t> fresh;
    try {
        for (const wire_plan& one : plan.wires) {
            const std::string print = one.name + '\n' + one.fingerprint;
            const auto found = known.find(print);
            if (found != known.end() && before.count(one.set) == sets_.count(one.set)) {
                kept[found->second] = true;
                retain(*wires[found->second]);
                next.emplace_back(&*wires[found->second]);
                next.back()->line = one.at.line;
                known.erase(found);
            } else {
                fresh.push_back(next.size());
                next.push_back(make(one, document));
            }
        }
    } catch (...) {
        sets_ = std::move(before);
        throw;
    }
    change.added = fresh.size();
    for (std::size_t i = 0; i < wires.size(); ++i) {
        if (!kept[i]) {
            ++change.removed;
            change.dropped += wires[i]->end();
        }
    }
    change.kept = next.size() - change.added;
    std::swap(wires, next);
    read = std::move(document.paths);
    times = std::move(document.times);
    for (const std::size_t i : fresh) {
        wires[i]->attach();
    }
    for (const wire_held& one : wires) {
        const auto set = sets_.find(one->set);
        const auto switched = switched_.find(one->set);
        one->switch_to(switched != switched_.end() ? switched->second : set == sets_.end() || set->second.on);
    }
    return change;
}

bool wiring_core::switch_set(std::string_view set, bool on) {
    if (sets_.find(set) == sets_.end()) {
        return false;
    }
    switched_.insert_or_assign(std::string(set), on);
    for (const wire_held& one : wires) {
        if (one->set == set) {
            one->switch_to(on);
        }
    }
    return true;
}

void wiring_core::clear() {
    std::vector<wire_held> gone = std::exchange(wires, {});
    for (const wire_held& one : gone) {
        one->end();
    }
    sets_.clear();
    read.clear();
    times.clear();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
