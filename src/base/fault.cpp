#include <courier/fault.hpp>

#include <courier/detail/base/in_use.hpp>

#include <atomic>
#include <cstdlib>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::atomic<fault_handler> installed{nullptr};
thread_local std::optional<fault> newest;

void default_handler(const fault& report) {
    if (report.level != severity::misuse) {
        return;
    }
#if WIRED_COURIER_EXCEPTIONS
    throw misuse(report);
#else
    std::abort(); // the report is in last_fault(), for the debugger
#endif
}

} // namespace

std::string_view id_of(fault_code code) noexcept {
    switch (code) {
    case fault_code::too_deep:
        return "courier.too-deep";
    case fault_code::wrong_thread:
        return "courier.wrong-thread";
    case fault_code::empty_handler:
        return "courier.empty-handler";
    case fault_code::stage_clash:
        return "courier.stage-clash";
    case fault_code::handler_twice:
        return "courier.handler-twice";
    case fault_code::channel_full:
        return "courier.channel-full";
    case fault_code::closed_channel:
        return "courier.closed-channel";
    case fault_code::module_has_subscriptions:
        return "courier.module-has-subscriptions";
    case fault_code::two_libraries:
        return "courier.two-libraries";
    case fault_code::relay_circle:
        return "courier.relay-circle";
    case fault_code::second_answerer:
        return "courier.second-answerer";
    case fault_code::unknown_channel:
        return "courier.unknown-channel";
    case fault_code::name_clash:
        return "courier.name-clash";
    case fault_code::nested_round:
        return "courier.nested-round";
    case fault_code::inbox_full:
        return "courier.inbox-full";
    case fault_code::not_quiet:
        return "courier.not-quiet";
    case fault_code::second_ledger:
        return "courier.second-ledger";
    case fault_code::subscriptions_left:
        return "courier.subscriptions-left";
    case fault_code::bad_interval:
        return "courier.bad-interval";
    case fault_code::failure_lost:
        return "courier.failure-lost";
    case fault_code::channel_hidden:
        return "courier.channel-hidden";
    case fault_code::set_in_formula:
        return "courier.set-in-formula";
    case fault_code::formula_circle:
        return "courier.formula-circle";
    case fault_code::never_settles:
        return "courier.never-settles";
    case fault_code::changed_in_use:
        return "courier.changed-in-use";
    }
    return "courier.unknown";
}

misuse::misuse(const fault& report)
    : std::logic_error(std::string{id_of(report.code)} + ": " + report.message), code_(report.code) {}

fault_handler set_fault_handler(fault_handler handler) noexcept {
    return installed.exchange(handler);
}

const fault* last_fault() noexcept {
    return newest ? &*newest : nullptr;
}

namespace detail {

void raise(fault_code code, severity level, std::string message, std::source_location where) {
    const fault report{code, level, std::move(message), where};
    if_memory_allows([&] { newest = report; });
    const fault_handler handler = installed.load();
    (handler != nullptr ? handler : &default_handler)(report);
}

void report_changed_in_use() {
    raise(
        fault_code::changed_in_use, severity::misuse,
        "a group or a tally is changed by the hash, comparison, copy or end of one of its members, in the middle of a "
        "change; do that from a handler",
        std::source_location{});
}

std::string place(std::source_location where) {
    std::string_view file = where.file_name();
    if (file.empty()) {
        return "an unknown place";
    }
    file.remove_prefix(file.rfind('/') + 1);
    return std::string{file} + ":" + std::to_string(where.line());
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
