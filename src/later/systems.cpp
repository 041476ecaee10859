// SPDX-License-Identifier: MIT
#include "system_parts.hpp"

#include <courier/systems.hpp>

#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

thread_local constinit systems_core* this_systems = nullptr; ///< the newest first

void update_nothing(void*, game_time) {}

} // namespace

systems_core::systems_core(std::string_view systems_name)
    : name(systems_name), parts(*make_owned<system_parts>().release()) {}

systems_core::~systems_core() {
    delete &parts;
}

systems_core* open_systems(std::string_view name) {
    auto made = make_owned<systems_core>(name);
    made->next = this_systems;
    made->back = &this_systems;
    if (made->next != nullptr) {
        made->next->back = &made->next;
    }
    this_systems = made.get();
    return made.release();
}

systems_core* newest_systems() noexcept {
    return this_systems;
}

void release(systems_core& core) noexcept {
    if (--core.refs == 0) {
        delete &core;
    }
}

system_entry* systems_core::entry_of(system_key key) noexcept {
    const auto found = std::find_if(parts.entries.begin(), parts.entries.end(),
                                    [=](const auto& e) { return e.key == key && !e.ended; });
    return found != parts.entries.end() ? &*found : nullptr;
}

const system_entry* systems_core::entry_of(system_key key) const noexcept {
    return const_cast<systems_core*>(this)->entry_of(key);
}

void* systems_core::find(system_key key) const noexcept {
    const system_entry* const found = entry_of(key);
    return found != nullptr ? found->object : nullptr;
}

void systems_core::note_need(system_key key, bool changes) {
    std::vector<system_need>& needs = parts.making.back().needs;
    const auto known = std::find_if(needs.begin(), needs.end(), [=](const auto& n) { return n.key == key; });
    if (known == needs.end()) {
        needs.push_back({key, changes});
    } else {
        known->changes = known->changes || changes;
    }
}

void systems_core::begin(system_key key, std::string_view type) {
    const std::source_location where = asked_at_;
    const auto same =
        std::find_if(parts.making.begin(), parts.making.end(), [=](const auto& m) { return m.key == key; });
    if (same != parts.making.end()) {
        std::string way;
        for (auto one = same; one != parts.making.end(); ++one) {
            way += "'" + plain_type_name(one->type) + "' -> ";
        }
        refuse_for_good(fault_code::system_circle,
                        "systems" + (name.empty() ? "" : " '" + name + "'") + " need one another in a circle: " + way +
                            "'" + plain_type_name(type) + "'",
                        "let one of them find the other through a channel, or move the part both need into a third",
                        where);
    }
    parts.making.push_back({key, type, {}});
}

void systems_core::made(system_key key, const system_ops& ops, void* object) {
    system_entry entry;
    entry.key = key;
    entry.ops = &ops;
    entry.object = object;
    entry.name = plain_type_name(ops.type);
    entry.needs = std::move(parts.making.back().needs);
    parts.entries.push_back(std::move(entry));
    parts.making.pop_back();
    updates_changed_ = true;
}

void systems_core::not_made() noexcept {
    parts.making.pop_back();
}

void systems_core::lend(system_key key, const system_ops& ops, void* object, std::source_location where) {
    if (system_entry* const there = entry_of(key); there != nullptr) {
        refuse_for_good(fault_code::system_there,
                        "'" + there->name + "' is lent to systems '" + name + "', which have one already",
                        "lend it once, before another system needs it", where);
    }
    system_entry entry;
    entry.key = key;
    entry.ops = &ops;
    entry.object = object;
    entry.name = plain_type_name(ops.type);
    parts.entries.push_back(std::move(entry));
}

void systems_core::ask(system_key key) {
    entry_of(key)->asked = true;
}

void systems_core::report_missing(std::string_view type) const {
    const std::source_location where = asked_at_;
    const std::string by =
        parts.making.empty() ? "" : ", which '" + plain_type_name(parts.making.back().type) + "' needs,";
    refuse_for_good(
        fault_code::system_missing,
        "'" + plain_type_name(type) + "'" + by + " is not in systems '" + name + "', and cannot be made",
        "lend() one, let another stand_in(), or give it a public constructor that takes only references to classes",
        where);
}

systems_core::making::making(systems_core& core, std::source_location where) noexcept
    : core_(core), before_(core.parts.entries.size()), outermost_(core.parts.making.empty()) {
    if (outermost_) {
        core.asked_at_ = where;
    }
}

void systems_core::making::done() noexcept {
    done_ = true;
}

systems_core::making::~making() {
    if (!outermost_) {
        return;
    }
    if (core_.over) { // which has ended in the middle
        core_.parts.teams.clear();
        core_.undo_since(0);
    } else if (!done_) {
        core_.undo_since(before_);
    }
    core_.settle_and_remove();
}

// Nobody has seen them, or nobody is left who could.
void systems_core::undo_since(std::size_t before) noexcept {
    for (std::size_t i = before; i < parts.entries.size(); ++i) {
        parts.entries[i].asked = false;
        parts.entries[i].teams.clear();
    }
}

std::uint32_t systems_core::open_team(std::string_view team_name) {
    parts.teams.push_back({++newest_team_, std::string{team_name}});
    return newest_team_;
}

void systems_core::add_to_team(std::uint32_t number, system_key key) {
    std::vector<std::uint32_t>& in = entry_of(key)->teams;
    if (std::find(in.begin(), in.end(), number) == in.end()) {
        in.push_back(number);
    }
}

const team_note* systems_core::team(std::uint32_t number) const noexcept {
    const auto found =
        std::find_if(parts.teams.begin(), parts.teams.end(), [=](const auto& t) { return t.number == number; });
    return found != parts.teams.end() ? &*found : nullptr;
}

void systems_core::pause_team(std::uint32_t number, bool pause) {
    for (team_note& one : parts.teams) {
        if (one.number == number && one.paused != pause) {
            one.paused = pause;
            if (parts.making.empty()) { // else the end of that settles it
                settle();
            }
            return;
        }
    }
}

void systems_core::end_team(std::uint32_t number) {
    keep_reports();
    std::erase_if(parts.teams, [=](const team_note& t) { return t.number == number; });
    for (system_entry& entry : parts.entries) {
        std::erase(entry.teams, number);
    }
    if (parts.making.empty()) {
        settle();
        remove_ended_when_safe();
    }
}

bool systems_core::needs(const system_entry& one, system_key key) const noexcept {
    return std::any_of(one.needs.begin(), one.needs.end(), [=](const auto& n) { return n.key == key; });
}

// Whoever needs something was made after it.
void systems_core::settle_lives() noexcept {
    for (std::size_t i = parts.entries.size(); i-- > 0;) {
        system_entry& entry = parts.entries[i];
        if (entry.ended) {
            continue;
        }
        bool kept = (entry.ops->destroy == nullptr && !over) || entry.asked || !entry.teams.empty();
        for (std::size_t k = i + 1; k < parts.entries.size() && !kept; ++k) {
            kept = !parts.entries[k].ended && needs(parts.entries[k], entry.key);
        }
        entry.ended = !kept;
    }
}

void systems_core::settle_activity(first_failure& failed) {
    const bool ended_ones_stay = !over && (updating_ || frames_ != 0 || put_off::has_to_wait());
    std::vector<std::pair<void (*)(void*), void*>> told;
    for (std::size_t i = parts.entries.size(); i-- > 0;) {
        system_entry& entry = parts.entries[i];
        bool active = entry.asked;
        for (const std::uint32_t in : entry.teams) {
            active = active || !team(in)->paused;
        }
        for (std::size_t k = i + 1; k < parts.entries.size() && !active; ++k) {
            active = parts.entries[k].active && needs(parts.entries[k], entry.key);
        }
        active = active && !entry.ended;
        if (entry.ops->destroy == nullptr || entry.active == active) {
            continue;
        }
        entry.active = active;
        updates_changed_ = true;
        if (!active) { // also in the pass that goes on
            for (update_step& one : parts.updates) {
                if (one.key == entry.key) {
                    one.update = &update_nothing;
                }
            }
        }
        if (entry.ops->pause != nullptr && (!entry.ended || ended_ones_stay)) {
            told.emplace_back(active ? entry.ops->resume : entry.ops->pause, entry.object);
        }
    }
    for (std::size_t i = told.size(); i-- > 0;) { // in the order of their updates
        failed.run([&] { told[i].first(told[i].second); });
    }
}

void systems_core::settle() {
    first_failure failed;
    settle_lives();
    settle_activity(failed);
    failed.rethrow();
}

void systems_core::settle_and_remove() noexcept {
    at_the_end("systems", [this] { settle(); });
    remove_ended_when_safe();
}

void systems_core::remove_ended_when_safe() noexcept {
    if (over || !at_the_end_.ask()) { // over: nothing would keep this until then
        remove_ended();
    }
}

// The newest first; what is destroyed may do anything.
void systems_core::remove_ended() noexcept {
    const held until_then(*this);
    while (!updating_ && frames_ == 0 && parts.making.empty()) {
        const auto last =
            std::find_if(parts.entries.rbegin(), parts.entries.rend(), [](const auto& e) { return e.ended; });
        if (last == parts.entries.rend()) {
            return;
        }
        const system_entry gone = std::move(*last);
        parts.entries.erase(std::next(last).base());
        updates_changed_ = true;
        if (gone.ops->destroy != nullptr) {
            gone.ops->destroy(gone.object);
        }
    }
}

void systems_core::list_updates() {
    parts.updates.clear();
    for (const system_entry& entry : parts.entries) {
        if (entry.active && !entry.ended && entry.ops->update != nullptr) {
            parts.updates.push_back({entry.ops->update, entry.object, entry.key});
        }
    }
    updates_changed_ = false;
}

void systems_core::update(game_time step) {
    if (updating_ || !parts.making.empty()) {
        return;
    }
    if (updates_changed_) {
        list_updates();
    }
    first_failure failed;
    {
        const while_true now(updating_);
        for (std::size_t i = 0; i < parts.updates.size();) {
            failed.run([&] {
                while (i < parts.updates.size()) {
                    const update_step& one = parts.updates[i++];
                    one.update(one.object, step);
                }
            });
        }
    }
    remove_ended_when_safe();
    failed.rethrow();
}

void systems_core::end_frame() noexcept {
    --frames_;
    remove_ended_when_safe();
}

void systems_core::close() noexcept {
    keep_reports();
    over = true;
    *back = next;
    if (next != nullptr) {
        next->back = back;
    }
    at_the_end_.withdraw();
    if (parts.making.empty()) { // else the end of that does the rest
        parts.teams.clear();
        undo_since(0);
        settle_and_remove();
    }
}

} // namespace detail

void team::end() noexcept {
    if (const auto core = std::move(core_); core) {
        detail::at_the_end("systems", [&core, number = number_] { core->end_team(number); });
    }
}

bool team::live() const noexcept {
    return core_ && core_->team(number_) != nullptr;
}

void team::pause() {
    if (const auto core = core_; core) {
        core->pause_team(number_, true);
    }
}

void team::resume() {
    if (const auto core = core_; core) {
        core->pause_team(number_, false);
    }
}

bool team::paused() const noexcept {
    const detail::team_note* const note = core_ ? core_->team(number_) : nullptr;
    return note != nullptr && note->paused;
}

WIRED_COURIER_NAMESPACE_END
