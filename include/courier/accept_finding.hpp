// Findings that are as they should be, said next to what they are about.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/finding_code.hpp>

#include <source_location>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// Which findings are meant: all with this code, on this channel, about this party.
struct acceptance {
    finding_code code;
    std::string channel = {}; ///< empty: on any
    std::string party = {};   ///< empty: about any
    std::string reason;       ///< for readers of reports; not empty
};

/// Enters in the books of this thread's ledger that these findings are as they should be:
///
///     courier::channel<Wound> wounds{"slime.wounds"};
///     courier::accept_finding({.code = courier::finding_code::every_frame,
///                              .channel = "slime.wounds", .reason = "each wound is drawn"});
///
/// An audit lists them apart, live and from a recording, and `report.clean()` does not count
/// them. One that there is not, or no longer, is a finding itself (`needless_accept`). Without a
/// ledger nothing happens; of the same one twice, the first counts. A ledger keeps 4096.
void accept_finding(const acceptance& what, std::source_location where = std::source_location::current());

WIRED_COURIER_NAMESPACE_END
