// The wires that are in force, and the change from one such state to the next.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/check/declared_states.hpp"
#include "wiring/run/live_wire.hpp"
#include "wiring/text/read_files.hpp"

#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline constexpr std::uint32_t no_set = UINT32_MAX;

struct wire_row {
    live_wire* wire = nullptr; ///< the table in force holds a reference
    wire_print identity;
    place_in at;
    std::uint32_t set = no_set; ///< of `sets`
};

/// Not changed any more once it is in force: drafts look at it from other threads.
struct wire_table {
    std::vector<wire_row> rows;
    std::vector<set_plan> sets;     ///< sorted by name
    std::vector<wiring_text> files; ///< with those included
    std::vector<std::filesystem::path> paths;
    std::vector<std::filesystem::file_time_type> times;

    [[nodiscard]] const set_plan* set(std::string_view name) const noexcept;
};

/// What is offered, as it was at one time. Not changed any more.
struct offer_list final : name_finder {
    [[nodiscard]] std::shared_ptr<value_cause> state(const std::string& wanted) const override;

    catalogue all;
    std::vector<std::shared_ptr<cause_base>> causes;   ///< as the channels of the catalogue
    std::vector<std::shared_ptr<action_base>> actions; ///< as its actions
    std::vector<courier::stage> stages;
    timetable* hours = nullptr;
};

/// A wire that is neither subscribed nor bound to its targets.
[[nodiscard]] wire_held make_wire(const wire_plan& plan, const wire_table& table, const offer_list& has,
                                  std::shared_ptr<wire_allowance> allows);

/// What a draft is made of.
struct draft_parts {
    std::vector<std::filesystem::path> named; ///< the files to read; none: `document` has been read
    wiring_document document;
    bool is_text = false;

    std::shared_ptr<const offer_list> has;  ///< of when it was begun
    std::shared_ptr<const wire_table> base; ///< the same
    std::uint64_t offers = 0;               ///< how often what is offered had changed
    bool keeps_none = false;                ///< what wires in force hold has been replaced

    bool is_prepared = false;
    bool is_read = false; ///< without faults
    std::vector<wiring_fault> faults;
    wiring_plan plan;
    std::vector<declared_state> states; ///< that the files declare
    bool changes_states = false;        ///< they are others than now; then there is no `next` yet
    std::shared_ptr<wire_table> next;
    std::vector<std::size_t> fresh;   ///< rows of `next`, wires of the plan
    std::vector<wire_held> made;      ///< as many
    std::vector<std::size_t> removed; ///< rows of `base`

    /// Reads, checks and compares. From any thread: nothing else looks at this.
    void prepare();

private:
    void read(fault_list& into);
    void compare_with_base();
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
