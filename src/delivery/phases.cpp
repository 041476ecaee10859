// SPDX-License-Identifier: MIT
#include <courier/detail/base/in_use.hpp>
#include <courier/phases.hpp>

#include <courier/detail/base/owned.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/detail/delivery/last_reports.hpp>
#include <courier/detail/delivery/oversight.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One move, as it is remembered.
struct phase_step {
    std::uint8_t from = 0;
    std::uint8_t to = 0;
    std::uint64_t frame = 0; ///< of the thread's ledger; 0 without one
    std::uint64_t cause = 0; ///< the event in whose handling it was made; 0: none
    std::source_location where;
};

struct phase_history {
    static constexpr std::size_t most = 256; ///< a power of two
    phase_step steps[most];                  ///< a ring once it is full
    std::size_t next = 0;
};

namespace {

thread_local constinit phases_core* this_phases = nullptr; ///< the newest first

} // namespace

phases_core::phases_core() : history(*make_owned<phase_history>().release()) {}

phases_core::~phases_core() {
    delete &history;
}

std::string phases_core::allowed_after(std::size_t from) const {
    std::string list;
    for (std::size_t i = 0; i < allowed.size(); ++i) {
        if ((allowed[from] & bit_of(i)) != 0) {
            list += (list.empty() ? "" : ", ") + std::string{names[i]};
        }
    }
    return list.empty() ? "nowhere" : list;
}

void phases_core::remember(std::uint8_t from, std::uint8_t to, std::source_location where) {
    phase_step& step = history.steps[history.next];
    history.next = (history.next + 1) & (phase_history::most - 1);
    const bool seen = overseen();
    step = {from, to, seen ? this_oversight.frame : 0, seen ? this_oversight.cause : 0, where};
    ++moves;
    ++entered[to];
}

phases_core* open_phases(std::string_view name, const std::string_view* names, std::size_t count, std::uint8_t first) {
    auto made = make_owned<phases_core>();
    made->name = name;
    made->names = names;
    made->allowed.resize(count);
    made->entered.resize(count);
    made->now = made->first = first;
    made->next = this_phases;
    made->back = &this_phases;
    if (made->next != nullptr) {
        made->next->back = &made->next;
    }
    this_phases = made.get();
    return made.release();
}

namespace {

/// The oldest first.
std::vector<phase_step> steps_of(const phases_core& core) {
    constexpr std::size_t most = phase_history::most;
    std::vector<phase_step> all;
    const auto count = static_cast<std::size_t>(std::min<std::uint64_t>(core.moves, most));
    for (std::size_t i = 0; i < count; ++i) {
        all.push_back(core.history.steps[(core.history.next - count + i) & (most - 1)]);
    }
    return all;
}

phases_report report_of(const phases_core& core) {
    phases_report one;
    one.name = core.name;
    one.now = core.names[core.now];
    one.moves = core.moves;
    one.refused = core.refused;
    for (std::size_t from = 0; from < core.allowed.size(); ++from) {
        if (core.names[from].empty()) {
            continue;
        }
        one.phases.emplace_back(core.names[from]);
        for (std::size_t to = 0; to < core.allowed.size(); ++to) {
            if (from != to && !core.names[to].empty() && (core.allowed[from] & bit_of(to)) != 0) {
                one.allowed.emplace_back(core.names[from], core.names[to]);
            }
        }
    }
    for (const phase_step& step : steps_of(core)) {
        one.history.push_back(
            {std::string{core.names[step.from]}, std::string{core.names[step.to]}, step.frame, step.cause, step.where});
    }
    return one;
}

} // namespace

void close_phases(phases_core& core) noexcept {
    if (overseen()) [[unlikely]] {
        if_memory_allows([&] { this_oversight.last->keep(core.name, report_of(core)); });
    }
    core.over = true;
    *core.back = core.next;
    if (core.next != nullptr) {
        core.next->back = core.back;
    }
    static_cast<void>(held<phases_core>::taking_over(&core));
}

void release(phases_core& core) noexcept {
    if (--core.refs == 0) {
        delete &core;
    }
}

void report_no_phase(std::string_view type, std::size_t number) {
    refuse_for_good(fault_code::move_refused,
                    "number " + std::to_string(number) + " is not a value of '" + plain_type_name(type) + "'",
                    "name one of its phases", std::source_location{});
}

std::string refuse_move(phases_core& core, std::size_t to, std::string why, std::source_location where) {
    ++core.refused;
    const std::string wanted = to < core.allowed.size() && !core.names[to].empty() ? std::string{core.names[to]}
                                                                                   : "number " + std::to_string(to);
    std::string message = "'" + core.name + "' does not go from " + std::string{core.names[core.now]} + " to " +
                          wanted + ": " + std::move(why);
    raise(fault_code::move_refused, severity::refused, message,
          "allow the move where the phases are made, or ask may_move_to() first", where);
    return message;
}

} // namespace detail

namespace {

/// In the order in which they were made.
std::vector<const detail::phases_core*> all_phases() {
    std::vector<const detail::phases_core*> all;
    for (const detail::phases_core* core = detail::this_phases; core != nullptr; core = core->next) {
        all.push_back(core);
    }
    std::reverse(all.begin(), all.end());
    return all;
}

} // namespace

std::vector<phases_report> list_phases() {
    std::vector<phases_report> all;
    for (const detail::phases_core* core : all_phases()) {
        all.push_back(detail::report_of(*core));
    }
    return all;
}

WIRED_COURIER_NAMESPACE_END
