// SPDX-License-Identifier: MIT
// All channels of the process, and what concerns them together.
#include "delivery/slots.hpp"
#include "delivery/subscriptions.hpp"

#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/fault.hpp>
#include <courier/modules.hpp>
#include <courier/threads.hpp>

#include <mutex>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

struct channel_registry {
    std::mutex guard;
    channel_core* first = nullptr;
};

// Never destroyed: channels with static lifetime leave it late.
channel_registry& registry() {
    static auto* one = new channel_registry;
    return *one;
}

// Channels of the calling thread; those of others must not be touched.
template <class Visit>
void each_channel(Visit visit) {
    channel_registry& all = registry();
    const std::uint32_t here = this_thread_number();
    const std::lock_guard lock(all.guard);
    for (channel_core* core = all.first; core != nullptr; core = core->registry_next) {
        if (core->thread == here) {
            visit(*core);
        }
    }
}

template <class Visit>
void each_slot_of(const void* module, channel_core& core, Visit visit) {
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        for (std::uint32_t i = 0; i < list->size; ++i) {
            if (!is_gone(list->entries[i]) && list->slots[i]->ops->module == module) {
                visit(*list->slots[i]);
            }
        }
    }
}

// Stands in for the code of a module that goes away while a publish still
// holds a slot of it.
constexpr handler_ops no_code{&skip, nullptr, nullptr, nullptr, nullptr, nullptr, 0, 1, handler_is_word};

// Any slot of the module, or null.
slot* any_slot_of(const void* module) {
    slot* found = nullptr;
    each_channel([&](channel_core& core) {
        if (found == nullptr) {
            each_slot_of(module, core, [&found](slot& s) { found = &s; });
        }
    });
    return found;
}

// A slot of the module that ended while a publish is in flight, with state in
// it that has not been destroyed yet, or null.
slot* any_armed_limbo_of(const void* module) {
    slot* found = nullptr;
    each_channel([&](channel_core& core) {
        for (slot* s = core.limbo; s != nullptr && found == nullptr; s = s->next) {
            found = s->ops->module == module && (s->shape & shape_full) != 0 ? s : nullptr;
        }
    });
    return found;
}

std::string list_places(const void* module) {
    std::string places;
    each_channel([&](channel_core& core) {
        each_slot_of(module, core, [&](slot& s) {
            places += (places.empty() ? "'" : ", '") + core.name + "' from " + place(s.where);
        });
        if (core.on_failure && core.on_failure_module == module) {
            places += (places.empty() ? "'" : ", '") + core.name + "' as its failure handler";
        }
    });
    return places;
}

} // namespace

void enter_registry(channel_core& core) {
    channel_registry& all = registry();
    const std::lock_guard lock(all.guard);
    core.registry_next = all.first;
    core.registry_back = &all.first;
    if (all.first != nullptr) {
        all.first->registry_back = &core.registry_next;
    }
    all.first = &core;
}

void leave_registry(channel_core& core) noexcept {
    const std::lock_guard lock(registry().guard);
    *core.registry_back = core.registry_next;
    if (core.registry_next != nullptr) {
        core.registry_next->registry_back = core.registry_back;
    }
}

void each_channel_here(const std::function<void(channel_core&)>& visit) {
    each_channel(visit);
}

void adopt(channel_core& core) noexcept {
    const std::uint32_t here = this_thread_number();
    if (const std::string* const ledger = is_noted(core) ? looks_on().ledger_elsewhere(core) : nullptr;
        ledger != nullptr) {
        raise(fault_code::wrong_thread, severity::refused,
              "channel '" + core.name + "' is in the books of ledger '" + *ledger + "' of " +
                  describe_thread(core.thread) + ", so " + describe_thread(here) + " cannot adopt it",
              "call ledger::detach() there first", std::source_location{});
        return;
    }
    const std::lock_guard lock(registry().guard); // others look at the threads of all channels
    core.thread = here;
}

std::size_t count_of_module(const void* module) noexcept {
    std::size_t count = 0;
    each_channel([&](channel_core& core) { each_slot_of(module, core, [&count](slot&) { ++count; }); });
    return count;
}

void end_of_module(const void* module, std::string_view name) noexcept {
    const std::string places = list_places(module);
    if (!places.empty()) {
        raise(fault_code::module_has_subscriptions, severity::notice,
              "module '" + std::string{name} + "' is being unloaded with live subscriptions: " + places +
                  ", which end now",
              "destroy the module's subscribers before unloading it", std::source_location{});
    }
    // One at a time, and outside the lock: what goes may take anything with it.
    while (slot* s = any_slot_of(module)) {
        detach(*s);
    }
    // The end of the publish would be too late for code that is about to go.
    while (slot* s = any_armed_limbo_of(module)) {
        destroy_state(*s);
        s->ops = &no_code;
    }
    if (overseen()) {
        looks_on().module_ends();
    }
    std::vector<failure_handler> handlers;
    each_channel([&](channel_core& core) {
        if (core.on_failure_module == module) {
            handlers.push_back(std::exchange(core.on_failure, nullptr));
        }
        if (core.kind != nullptr && core.kind->module == module) {
            core.kind = nullptr; // its fields are not known any more
        }
        if (core.stop != nullptr) {
            *core.stop = {}; // its place may be text of the module
        }
    });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
