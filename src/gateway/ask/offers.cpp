// SPDX-License-Identifier: MIT
#include "gateway/ask/offers.hpp"

#include "data/made_object.hpp"
#include "data/named_place.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/data/json.hpp>
#include <courier/nearest.hpp>

#include <algorithm>
#include <exception>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::string or_nearest(const std::string& name, const std::vector<std::string>& names) {
    return "; " + did_you_mean(name, names, "GET /catalogue has all names");
}

/// Whatever handlers throw is told to whoever asked.
template <class Step>
reply unless_it_throws(Step step) {
    try {
        return step();
    } catch (const std::exception& error) {
        return failed_in_game(error.what());
    }
}

reply reply_of(const action_base& action, const call_frame& frame) {
    if (frame.has_failed) {
        return failed_in_game(frame.why);
    }
    nlohmann::json body{{"done", true}};
    if (action.answer != nullptr && frame.answer != nullptr) {
        body["answer"] = nlohmann::json::parse(json_of(*action.answer, frame.answer));
    }
    return as_reply(body);
}

} // namespace

void offers::add(std::shared_ptr<payload_door> door) {
    std::erase_if(doors_, [&](const auto& one) { return one->name == door->name; });
    doors_.push_back(std::move(door));
}

void offers::add(const std::shared_ptr<wiring_core>& of, std::string_view action) {
    std::erase_if(actions_, [](const some_actions& one) { return one.of.expired(); });
    actions_.push_back({of, std::string(action)});
}

namespace {

/// Why a payload cannot go to the address `at`; empty if it can.
std::string misfit_of_address(const payload_door& door, const std::string& at) {
    const std::string whole = "/channels/" + door.name;
    if (!door.has_address) {
        return at.empty() ? std::string() : "'" + door.name + "' has no addresses; leave \"at\" out of the path";
    }
    if (at.empty()) {
        return "a payload on '" + door.name + "' is for one address; say which: POST " + whole + "?at=ADDRESS";
    }
    return door.takes_address(at) ? std::string() : "'" + at + "' is none of the addresses of '" + door.name + "'";
}

} // namespace

reply offers::publish(const std::string& channel, const std::string& at, const nlohmann::json& body) const {
    const auto found = std::find_if(doors_.begin(), doors_.end(),
                                    [&](const auto& one) { return one->name == channel && one->is_there(); });
    if (found == doors_.end()) {
        std::vector<std::string> names;
        names.reserve(doors_.size());
        for (const auto& one : doors_) {
            names.push_back(one->name);
        }
        return refuse(gateway_code::unknown_path,
                      "no payloads are accepted for '" + channel + "'" + or_nearest(channel, names));
    }
    // Its handlers may be the end of all this.
    const std::shared_ptr<payload_door> door = *found; // NOLINT(performance-unnecessary-copy-initialization)
    if (const std::string wrong = misfit_of_address(*door, at); !wrong.empty()) {
        return refuse(gateway_code::does_not_fit, wrong);
    }
    const made_object payload(*door);
    if (const std::vector<json_fault> wrong = read_fields(body, door->fields, payload.get(), {}); !wrong.empty()) {
        return refuse(gateway_code::does_not_fit, "the payload does not fit '" + channel + "'; nothing was published",
                      wrong);
    }
    return unless_it_throws([&] {
        const receipt got = door->publish(payload.get(), at, named_place("POST /channels/" + channel, 0));
        return as_reply({{"served", got.served()}, {"stopped", got.stopped()}, {"closed", got.closed()}});
    });
}

offers::found_action offers::find(std::string_view name) const {
    found_action made;
    for (const some_actions& one : actions_) {
        if (const std::shared_ptr<wiring_core> core = one.of.lock()) {
            for (const std::shared_ptr<action_base>& action : core->actions) {
                if (one.only.empty() || one.only == action->name) {
                    if (action->name == name) {
                        return {action, core, {}};
                    }
                    made.names.push_back(action->name);
                }
            }
        }
    }
    return made;
}

namespace {

/// What a call has apart from the parameters.
std::vector<json_fault> misfits_around(const nlohmann::json& body, const action_base& action) {
    if (!body.is_object()) {
        return {{json_code::wrong_type, R"(the text must be an object with "parameters" in it)", {}, {}}};
    }
    std::vector<json_fault> wrong;
    for (const auto& [key, value] : body.items()) {
        if (key != "parameters" && (key != "at" || !value.is_string())) {
            wrong.push_back({json_code::unknown_field, "has no meaning here", "/" + key,
                             R"(a call has "parameters", and "at", a text)"});
        }
    }
    if (wrong.empty() && action.address_type.empty() != (body.value("at", std::string()).empty())) {
        wrong.push_back({action.address_type.empty() ? json_code::unknown_field : json_code::missing_field,
                         action.address_type.empty() ? "names an object, but the action is not for any one object"
                                                     : "is missing: the action is for one object among many",
                         "/at", action.address_type.empty() ? "leave it out" : "name the object"});
    }
    return wrong;
}

/// Of an object that is there, and of the kind that the action is for; else null.
std::shared_ptr<const void> address_of(const std::string& target, const wiring_core& of, const action_base& action) {
    const auto place = of.targets.find(target);
    return place != of.targets.end() && place->second->key == action.address_key ? place->second->address : nullptr;
}

reply carry_out(action_base& action, const void* address, const void* parameters) {
    struct called {
        const action_base& action;
        std::optional<reply> made;
    } result{action, {}};
    action.call(address, parameters, named_place("POST /actions/" + action.name, 0), &result,
                [](void* context, const call_frame& frame) {
                    auto& to = *static_cast<called*>(context);
                    to.made = reply_of(to.action, frame);
                });
    return result.made ? std::move(*result.made)
                       : failed_in_game("the action '" + action.name + "' ended before it could answer; call it again");
}

} // namespace

reply offers::call(const std::string& action, const nlohmann::json& body) const {
    const found_action found = find(action);
    if (found.action == nullptr) {
        return refuse(gateway_code::unknown_path,
                      "there is no action '" + action + "'" + or_nearest(action, found.names));
    }
    action_base& called = *found.action;
    std::vector<json_fault> wrong = misfits_around(body, called);
    const made_object parameters(called);
    if (wrong.empty()) {
        static const nlohmann::json none = nlohmann::json::object();
        const auto given = body.find("parameters");
        wrong = read_fields(given != body.end() ? *given : none, called.fields, parameters.get(), {});
        for (json_fault& one : wrong) {
            one.where.insert(0, "/parameters");
        }
    }
    if (!wrong.empty()) {
        return refuse(gateway_code::does_not_fit, "the call does not fit '" + action + "'; nothing was done", wrong);
    }
    std::shared_ptr<const void> address;
    if (!called.address_type.empty()) {
        const std::string at = body["at"];
        address = address_of(at, *found.of, called);
        if (address == nullptr) {
            return failed_in_game("there is no '" + at + "' of the kind that '" + action + "' is for, or not now");
        }
    }
    return unless_it_throws([&] { return carry_out(called, address.get(), parameters.get()); });
}

void offers::list(catalogue& all) const {
    for (const some_actions& one : actions_) {
        if (const std::shared_ptr<wiring_core> core = one.of.lock()) {
            const std::shared_ptr<const offer_list> has = core->list();
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
    for (const auto& door : doors_) {
        if (door->is_there() && all.action(door->name) == nullptr) {
            all.actions.push_back({door->name, shape_of(door->fields, door->type, true), {}, {}, {door->name}});
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
