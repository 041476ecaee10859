// What the library reports when it is used wrongly or has to refuse something.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/place_text.hpp>
#include <courier/detail/base/shared.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <source_location>
#include <stdexcept>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Why a fault was raised. Each has a stable text form, see `id_of()`.
enum class fault_code : std::uint8_t {
    too_deep,                 ///< a publish nested past the depth limit was refused
    wrong_thread,             ///< a channel was used from a thread it does not belong to (checked builds)
    empty_handler,            ///< a null function pointer or an empty std::function was subscribed
    stage_clash,              ///< two stages of different names share one place in the order (checked builds)
    handler_twice,            ///< one subscriber subscribed the same handler twice (checked builds)
    channel_full,             ///< more subscriptions in one stage than fit
    closed_channel,           ///< something was subscribed to a channel that is being destroyed
    module_has_subscriptions, ///< a module was unloaded while subscriptions still pointed into it
    two_libraries,            ///< a channel crossed between two copies of the library (checked builds)
    relay_circle,             ///< a relay was refused that would forward in a circle
    second_answerer,          ///< a query that takes one answerer has one
    unknown_channel,          ///< a hub knows no channel of that name
    name_clash,               ///< two channels of different payloads have one name in a hub (still two channels)
    nested_round,             ///< an outbox was asked to deliver while it delivers
    inbox_full,               ///< an inbox has refused what other threads sent
    not_quiet,                ///< an outbox still has something to deliver after as many rounds as it was given
    bad_interval,             ///< a timetable was given an interval that is not above zero
    failure_lost,             ///< a handler threw at something's end, where the exception can go nowhere
    channel_hidden,           ///< a hub and one it sees each made a channel of their own for one payload
    set_in_formula,           ///< a state was set while a formula was being computed
    formula_circle,           ///< a formula needs its own value
    second_ledger,            ///< a thread has a ledger already
    subscriptions_left,       ///< subscriptions outlived the scope that they were made in
    never_settles,            ///< refreshers or handlers keep changing what makes them run
    move_refused,             ///< phases do not allow a move that was asked for
    system_circle,            ///< systems need one another in a circle
    system_missing,           ///< a system needs one that cannot be made, and was not lent
    system_there,             ///< an object is lent to systems that have one of its type
    changed_in_use,           ///< something was changed or ended by code that it runs in the middle of a change
    level_over,               ///< something was asked of a level that has not begun, or is ending
    sequence_lost,            ///< a sequence came back that neither waits nor is over (checked builds)
};
/// How many codes there are.
inline constexpr std::size_t fault_codes = 31;

/// How the program continues once the fault has been handed over.
enum class severity : std::uint8_t {
    notice,  ///< nothing was refused
    refused, ///< this one operation did not happen; everything else is as before
    misuse,  ///< a programmer error: the default is to throw `courier::fault_error`
};

/// One report of the core. Every component has the same four: a code, what happened,
/// where, and advice.
struct fault {
    fault_code code;
    severity level;
    std::string what; ///< what happened, in one sentence
    std::source_location where;
    std::string advice; ///< what to do about it

    /// One line: "bell.cpp:12: what; advice [courier.too-deep]".
    [[nodiscard]] std::string text() const;
};

/// That line, of any fault. `where` and `advice` may be empty.
[[nodiscard]] std::string fault_text(std::string_view where, std::string_view what, std::string_view advice,
                                     std::string_view code);

/// The stable text form of a code, such as "courier.too-deep".
[[nodiscard]] std::string_view id_of(fault_code code) noexcept;

/// Thrown for `severity::misuse` when no fault handler is installed. With
/// exceptions compiled out the program is aborted instead.
/// Members that are noexcept, destructors among them, end the program with it.
class fault_error : public std::logic_error {
public:
    /// With the fault that it carries.
    explicit fault_error(const courier::fault& report);
    /// The fault that it carries; good while any copy of the exception lives.
    [[nodiscard]] const courier::fault& fault() const noexcept { return *fault_; }
    /// The code of that fault.
    [[nodiscard]] fault_code code() const noexcept { return fault_->code; }

private:
    detail::shared<const courier::fault> fault_; ///< shared, so that copying the exception throws nothing
};

/// Without a fault handler, misuse is thrown, and everything else is kept for
/// `last_fault()` and counted. Checked builds also print it to standard error,
/// once for each place in the code, so that nothing is refused in silence while
/// a game is made.
///
/// Receives every fault, on the thread that raised it. It may publish and
/// subscribe; for `severity::misuse` it may throw, abort, or return, and on
/// return the operation goes on at the caller's risk.
using fault_handler = std::function<void(const fault& report)>;

/// Installs `handler` for the whole process and returns the one before; an empty one
/// restores the default. Thread-safe; a fault that another thread raises meanwhile may
/// still reach the old one.
fault_handler set_fault_handler(fault_handler handler);

/// The newest fault raised on the calling thread, or null. Valid until the
/// next fault on that thread.
[[nodiscard]] const fault* last_fault() noexcept;

/// How many faults were raised so far, on all threads: of one kind, or in all.
[[nodiscard]] std::uint64_t fault_count(fault_code code) noexcept;
[[nodiscard]] std::uint64_t fault_count() noexcept;

namespace detail {

void raise(fault_code code, severity level, std::string what, std::string advice, std::source_location where);

/// Misuse after which nothing can go on: throws, or aborts, whatever a fault
/// handler does.
[[noreturn]] void refuse_for_good(fault_code code, std::string what, std::string advice, std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
