// SPDX-License-Identifier: MIT
#include <courier/wiring/console.hpp>

#include "data/json_reader.hpp"
#include "data/made_object.hpp"
#include "wiring/run/wiring_core.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/data/json.hpp>
#include <courier/detail/base/stable_id.hpp>
#include <courier/detail/routing/hub_watch.hpp>
#include <courier/nearest.hpp>

#include <algorithm>
#include <exception>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(console_code code) noexcept {
    return detail::stable_id(code);
}

namespace {

using detail::action_base;
using detail::payload_door;
using detail::wiring_core;

struct some_actions {
    std::weak_ptr<wiring_core> of;
    std::string only; ///< empty: all
};

console_answer refused(console_code why, std::string_view name, std::string what, std::string advice = {},
                       std::vector<json_fault> misfits = {}) {
    return {console_fault{why, std::move(what), std::string(name), std::move(advice)}, std::move(misfits), {}, {}};
}

/// Whatever handlers throw is an answer.
template <class Step>
console_answer unless_it_throws(std::string_view name, Step step) {
    try {
        return step();
    } catch (const std::exception& error) {
        return refused(console_code::failed, name, error.what());
    }
}

/// A name alone means no fields.
std::string_view or_none(std::string_view fields) noexcept {
    return fields.find_first_not_of(' ') == std::string_view::npos ? "{}" : fields;
}

std::string nearest_or_all(std::string_view name, const std::vector<std::string>& names) {
    return did_you_mean(name, names, "the catalogue has all names");
}

/// Why a payload cannot go to the address `at`; empty if it can.
std::string misfit_of_address(const payload_door& door, std::string_view at) {
    if (!door.has_address) {
        return at.empty() ? std::string() : "'" + door.name + "' has no addresses; leave \"at\" out";
    }
    if (at.empty()) {
        return "a payload on '" + door.name + "' is for one address; say which by \"at\"";
    }
    return door.takes_address(at) ? std::string()
                                  : "'" + std::string(at) + "' is none of the addresses of '" + door.name + "'";
}

/// Whether an object is named where one is needed, and only there.
std::vector<json_fault> misfits_of_object(const action_base& action, std::string_view object) {
    if (action.address_type.empty() == object.empty()) {
        return {};
    }
    if (action.address_type.empty()) {
        return {{json_code::unknown_field, "names an object, but the action is not for any one object", "/at",
                 "leave it out"}};
    }
    return {
        {json_code::missing_field, "is missing: the action is for one object among many", "/at", "name the object"}};
}

/// Of an object that is there, and of the kind that the action is for; else null.
std::shared_ptr<const void> address_of(std::string_view object, const wiring_core& of, const action_base& action) {
    const auto place = of.targets.find(std::string(object));
    return place != of.targets.end() && place->second->key == action.address_key ? place->second->address : nullptr;
}

console_answer carry_out(action_base& action, const void* address, const void* parameters, std::source_location where) {
    struct called {
        const action_base& action;
        std::optional<console_answer> made;
    } result{action, {}};
    const std::string name = action.name;
    action.call(address, parameters, where, &result, [](void* context, const detail::call_frame& frame) {
        auto& to = *static_cast<called*>(context);
        to.made.emplace();
        if (frame.has_failed) {
            to.made->fault = console_fault{console_code::failed, frame.why, to.action.name, {}};
        } else if (to.action.answer != nullptr && frame.answer != nullptr) {
            to.made->answer = json_of(*to.action.answer, frame.answer);
        }
    });
    return result.made ? std::move(*result.made)
                       : refused(console_code::failed, name, "the action '" + name + "' ended before it could answer",
                                 "call it again");
}

} // namespace

struct console::parts {
    [[nodiscard]] std::shared_ptr<payload_door> door(std::string_view name) const;
    struct found_action {
        std::shared_ptr<action_base> action;
        std::shared_ptr<wiring_core> of;
    };
    [[nodiscard]] found_action action(std::string_view name) const;
    /// Calls `each` with every action, until it returns true.
    template <class Each>
    void each_action(Each each) const;

    std::vector<std::shared_ptr<payload_door>> doors;
    std::vector<some_actions> actions;
    std::unique_ptr<wiring> settings; ///< of states that are accepted
    std::vector<std::unique_ptr<detail::hub_watch>> hubs;
};

std::shared_ptr<payload_door> console::parts::door(std::string_view name) const {
    const auto found =
        std::find_if(doors.begin(), doors.end(), [&](const auto& one) { return one->name == name && one->is_there(); });
    return found != doors.end() ? *found : nullptr;
}

template <class Each>
void console::parts::each_action(Each each) const {
    for (const some_actions& one : actions) {
        if (const std::shared_ptr<wiring_core> core = one.of.lock()) {
            for (const std::shared_ptr<action_base>& action : core->actions) {
                if ((one.only.empty() || one.only == action->name) && each(action, core)) {
                    return;
                }
            }
        }
    }
}

console::parts::found_action console::parts::action(std::string_view name) const {
    found_action made;
    each_action([&](const std::shared_ptr<action_base>& action, const std::shared_ptr<wiring_core>& of) {
        if (action->name == name) {
            made = {action, of};
        }
        return made.action != nullptr;
    });
    return made;
}

console::console(std::string_view name) : name_(name), parts_(std::make_unique<parts>()), in_(name) {}

console::~console() = default;

void console::add(std::unique_ptr<payload_door> door) {
    std::erase_if(parts_->doors, [&](const auto& one) { return one->name == door->name; });
    parts_->doors.push_back(std::move(door));
}

void console::accept(hub& all) {
    detail::hub_core& core = detail::access::hub_of(all);
    std::erase_if(parts_->hubs, [&](const auto& one) { return one->of() == nullptr || one->of() == &core; });
    parts_->hubs.push_back(std::make_unique<detail::hub_watch>(core, [this](const detail::port& one) {
        if (one.ops != nullptr && !one.ops->kind->is_internal && detail::has_door(one)) {
            add(std::make_unique<detail::port_door>(one, name_));
        }
    }));
}

void console::accept(wiring& of, std::string_view action) {
    std::erase_if(parts_->actions, [](const some_actions& one) { return one.of.expired(); });
    parts_->actions.push_back({detail::access::kept_core(of), std::string(action)});
}

wiring& console::settings() {
    if (parts_->settings == nullptr) {
        parts_->settings = std::make_unique<wiring>(name_);
    }
    return *parts_->settings;
}

bool console::publishes(std::string_view name) const noexcept {
    return parts_->door(name) != nullptr;
}

console_answer console::publish(std::string_view name, std::string_view fields, std::string_view at,
                                std::source_location where) const {
    const std::shared_ptr<payload_door> door = parts_->door(name); // its handlers may be the end of all this
    if (door == nullptr) {
        std::vector<std::string> names;
        names.reserve(parts_->doors.size());
        for (const auto& one : parts_->doors) {
            names.push_back(one->name);
        }
        return refused(console_code::unknown_name, name, "no payloads are accepted for '" + std::string(name) + "'",
                       nearest_or_all(name, names));
    }
    if (std::string wrong = misfit_of_address(*door, at); !wrong.empty()) {
        return refused(console_code::does_not_fit, name, std::move(wrong));
    }
    const detail::made_object payload(*door);
    if (std::vector<json_fault> wrong = detail::fields_into(or_none(fields), door->fields, payload.get());
        !wrong.empty()) {
        return refused(console_code::does_not_fit, name,
                       "the payload does not fit '" + door->name + "'; nothing was published", {}, std::move(wrong));
    }
    return unless_it_throws(door->name, [&] {
        console_answer made;
        made.served = door->publish(payload.get(), at, where);
        return made;
    });
}

bool console::calls(std::string_view name) const noexcept {
    return parts_->action(name).action != nullptr;
}

console_answer console::call(std::string_view action, std::string_view parameters, std::string_view at,
                             std::source_location where) const {
    const parts::found_action found = parts_->action(action);
    if (found.action == nullptr) {
        std::vector<std::string> names;
        parts_->each_action([&](const auto& one, const auto&) {
            names.push_back(one->name);
            return false;
        });
        return refused(console_code::unknown_name, action, "there is no action '" + std::string(action) + "'",
                       nearest_or_all(action, names));
    }
    action_base& called = *found.action;
    std::vector<json_fault> wrong = misfits_of_object(called, at);
    const detail::made_object made(called);
    if (wrong.empty()) {
        wrong = detail::fields_into(or_none(parameters), called.fields, made.get());
        for (json_fault& one : wrong) {
            one.where.insert(0, "/parameters");
        }
    }
    if (!wrong.empty()) {
        return refused(console_code::does_not_fit, action,
                       "the call does not fit '" + called.name + "'; nothing was done", {}, std::move(wrong));
    }
    std::shared_ptr<const void> address;
    if (!called.address_type.empty()) {
        address = address_of(at, *found.of, called);
        if (address == nullptr) {
            return refused(console_code::no_object, action,
                           "there is no '" + std::string(at) + "' of the kind that '" + called.name +
                               "' is for, or not now");
        }
    }
    return unless_it_throws(called.name, [&] { return carry_out(called, address.get(), made.get(), where); });
}

void console::list(catalogue& all) const {
    for (const some_actions& one : parts_->actions) {
        if (const std::shared_ptr<wiring_core> core = one.of.lock()) {
            const std::shared_ptr<const detail::offer_list> has = core->list();
            for (const action_entry& action : has->all.actions) {
                if ((one.only.empty() || one.only == action.name) && all.action(action.name) == nullptr) {
                    all.actions.push_back(action);
                }
            }
            for (const target_entry& target : has->all.targets) {
                if (std::find(all.targets.begin(), all.targets.end(), target) == all.targets.end()) {
                    all.targets.push_back(target);
                }
            }
        }
    }
    for (const auto& door : parts_->doors) {
        if (door->is_there() && all.action(door->name) == nullptr) {
            all.actions.push_back({door->name, detail::shape_of(door->fields, door->type, true), {}, {}, {door->name}});
        }
    }
}

WIRED_COURIER_NAMESPACE_END
