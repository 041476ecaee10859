// Everything of a wiring: what is offered, and what is in force.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/run/made_states.hpp"
#include "wiring/run/wire_table.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/phases_core.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/detail/routing/hub_watch.hpp>
#include <courier/stage.hpp>
#include <courier/wiring/wiring.hpp>

#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct offered_phases {
    std::string name;
    held<phases_core> core;
};

class wiring_core final : public target_finder {
public:
    explicit wiring_core(std::string_view its_name) : name(its_name) {}
    wiring_core(const wiring_core&) = delete;
    wiring_core& operator=(const wiring_core&) = delete;
    ~wiring_core();

    /// What can be wired; made once, until something more is offered.
    [[nodiscard]] std::shared_ptr<const offer_list> list();
    /// A cause. Wires of one before it that had its name and its type wait for this one from now on.
    void add(std::unique_ptr<cause_base> cause);
    void add(query_entry asked);
    void add(std::string_view its_name, phases_core& core);
    void add(std::shared_ptr<const group_source> members);
    /// What a hub has, and all that it makes later.
    void add(const port& value, std::source_location where);
    void add(hub_core& hub, std::source_location where);
    /// Something more is offered, or is no more. `is_replaced`: what wires may hold.
    void offers_changed(bool is_replaced = false) noexcept;
    void targets_changed() noexcept { listed_.reset(); }

    [[nodiscard]] std::unique_ptr<draft_parts> begin();
    wiring_change take(draft_parts& draft);
    bool switch_set(std::string_view set, bool on);
    void clear();
    [[nodiscard]] wire_trial try_once(std::string_view wanted, std::string_view sample);
    [[nodiscard]] wire_trial try_draft(draft_parts& draft, std::string_view sample);

    void target_has_come(const target_place& which);
    [[nodiscard]] std::shared_ptr<target_place> target(const std::string& wanted) override;
    [[nodiscard]] std::shared_ptr<group_place> group(const std::string& wanted) override;
    [[nodiscard]] const std::shared_ptr<channel<action_failed>>& failures() const noexcept override { return failed; }
    [[nodiscard]] subscriber& leader() noexcept override { return in; }

    std::string name;
    subscriber in{name}; ///< wires sleep with it, as it does with the level that the wiring belongs to
    std::shared_ptr<channel<action_failed>> failed = std::make_shared<channel<action_failed>>(name + ".failed");
    std::vector<std::shared_ptr<cause_base>> causes;
    std::vector<std::shared_ptr<action_base>> actions;
    std::vector<std::shared_ptr<offered_phases>> phases;
    std::vector<courier::stage> stages;
    std::vector<query_entry> queries;
    std::map<std::string, std::vector<std::string>> announced; ///< by actions, which may come later
    std::map<std::string, std::shared_ptr<target_place>> targets;
    std::map<std::string, std::shared_ptr<group_place>> groups;
    timetable* hours = nullptr;
    std::vector<std::filesystem::path> files; ///< in force, as they were named
    std::shared_ptr<const wire_table> in_force = std::make_shared<const wire_table>();

private:
    [[nodiscard]] catalogue make_list() const;
    void attach_wires_of(const cause_base& cause);
    void renew(draft_parts& draft);
    void check_draft(draft_parts& draft);
    void make_states(const draft_parts& draft);
    void take_out(const std::shared_ptr<made_state>& state);
    [[nodiscard]] bool is_on(const wire_table& table, std::uint32_t set) const;
    void switch_kept(const wire_table& before, const wire_table& after);
    [[nodiscard]] courier::during during_of(const std::vector<phase_plan>& wanted, const set_plan* set) const;

    /// What can change with the states that files declare.
    struct offered {
        std::vector<std::shared_ptr<cause_base>> causes;
        std::vector<std::shared_ptr<action_base>> actions;
        std::vector<std::shared_ptr<made_state>> made;
        std::unordered_map<std::string, std::size_t> cause_numbers;
    };
    [[nodiscard]] offered now_offered() const { return {causes, actions, made_, cause_numbers_}; }
    void go_back_to(offered&& before) noexcept;

    std::vector<std::shared_ptr<made_state>> made_;     ///< for files
    std::map<std::string, bool, std::less<>> switched_; ///< by code
    std::unordered_map<std::string, std::size_t> cause_numbers_;
    std::vector<std::unique_ptr<hub_watch>> hubs_;
    std::shared_ptr<const wire_table> sorted_; ///< of which these are the wires, by what they wait for:
    std::unordered_map<const cause_base*, std::vector<live_wire*>> waiting_;
    std::shared_ptr<const offer_list> listed_;
    std::uint64_t offers_ = 0;
    bool is_replaced_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
