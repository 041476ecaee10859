// What `systems` keeps of its systems and teams.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/systems.hpp>

#include <courier/detail/later/systems_core.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One that a system needs.
struct system_need {
    system_key key = 0;
    bool changes = false; ///< it was taken by a reference that is not const
};

struct system_entry {
    system_key key = 0;
    const system_ops* ops = nullptr;
    void* object = nullptr;
    std::string name;
    std::vector<system_need> needs;
    std::vector<std::uint32_t> teams; ///< that it was added with
    bool asked = false;               ///< for itself
    bool active = true;
    bool ended = false; ///< nobody keeps it; it goes as soon as that is safe
};

struct team_note {
    std::uint32_t number = 0;
    std::string name;
    bool paused = false;
};

/// One call of an update.
struct update_step {
    void (*update)(void* object, game_time step);
    void* object;
    system_key key;
};

struct being_made {
    system_key key;
    std::string_view type;
    std::vector<system_need> needs;
};

struct system_parts {
    std::vector<system_entry> entries; ///< in the order of making
    std::vector<team_note> teams;
    std::vector<being_made> making; ///< the outermost first
    std::vector<update_step> updates;
};

/// Of those that have not ended, in the order of their updates.
[[nodiscard]] std::vector<system_report> system_reports_of(const systems_core& core);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
