// SPDX-License-Identifier: MIT
#include "ferry/cause_memory.hpp"

#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/ledger/ledger_core.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::uint64_t cause_memory::event_here() noexcept {
    return overseen() ? this_oversight.cause : 0;
}

// A chain may go on for ever, such as that of a clock; it is followed back to where its trace is
// known, and at most so far.
trace_id cause_memory::trace_of(std::uint64_t event) noexcept {
    constexpr int furthest = 256;
    if (event == 0 || !overseen()) {
        return {};
    }
    const std::uint32_t ledger = this_oversight.serial;
    std::uint64_t at = event;
    trace_id found{run_, event};
    for (int i = 0; i < furthest; ++i) {
        const known& one = place_of(at);
        if (one.event == at && one.ledger == ledger) {
            found = one.trace;
            break;
        }
        found = {run_, at};
        const event_memory* const memory = this_oversight.ledger->find(at);
        if (memory == nullptr || memory->cause == 0 || memory->cause >= at) {
            break;
        }
        at = memory->cause;
    }
    place_of(event) = {event, ledger, found};
    return found;
}

void cause_memory::next_is_of(trace_id trace) noexcept {
    if (overseen() && trace.is_set()) {
        const std::uint64_t next = this_oversight.ledger->newest_id + 1;
        place_of(next) = {next, this_oversight.serial, trace};
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
