#include <courier/fault.hpp>

#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <array>
#include <atomic>
#include <cstddef>
#include <cstdio>
#include <cstdlib>
#include <iterator>
#include <mutex>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::atomic<fault_handler> installed{nullptr};
thread_local std::optional<fault> newest_fault;

constexpr std::size_t codes = 64;
std::array<std::atomic<std::uint64_t>, codes> counts{};

/// What was printed already; once it is full, nothing more is printed.
class printed_places {
public:
    /// False when it was, or when there have been too many.
    bool enter(const fault& report) {
        const std::lock_guard lock(mutex_);
        for (const std::string& known : known_) {
            if (known.empty()) {
                break;
            }
            if (known == key_of(report)) {
                return false;
            }
        }
        if (count_ == known_.size()) {
            return false;
        }
        known_[count_++] = key_of(report);
        return true;
    }

private:
    // Without a line of code, a text with other numbers is the same.
    static std::string key_of(const fault& report) {
        std::string key{id_of(report.code)};
        if (report.where.line() != 0) {
            return key + report.where.file_name() + std::to_string(report.where.line());
        }
        std::copy_if(report.message.begin(), report.message.end(), std::back_inserter(key),
                     [](char c) { return c < '0' || c > '9'; });
        return key;
    }

    std::mutex mutex_;
    std::array<std::string, 256> known_;
    std::size_t count_ = 0;
};

// The only output of the core: while a game is made, nothing is refused in silence.
void print(const fault& report) {
    static printed_places printed;
    if (printed.enter(report)) {
        const std::string line = std::string{id_of(report.code)} + ": " + report.message + "\n";
        std::fputs(line.c_str(), stderr);
    }
}

void default_handler(const fault& report) {
    if (report.level != severity::misuse) {
        if constexpr (checked_build) {
            detail::if_memory_allows([&report] { print(report); });
        }
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
    case fault_code::move_refused:
        return "courier.move-refused";
    case fault_code::system_circle:
        return "courier.system-circle";
    case fault_code::system_missing:
        return "courier.system-missing";
    case fault_code::system_there:
        return "courier.system-there";
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
    return newest_fault ? &*newest_fault : nullptr;
}

std::uint64_t fault_count(fault_code code) noexcept {
    return counts[static_cast<std::size_t>(code) % codes].load(std::memory_order_relaxed);
}

std::uint64_t fault_count() noexcept {
    std::uint64_t sum = 0;
    for (const auto& count : counts) {
        sum += count.load(std::memory_order_relaxed);
    }
    return sum;
}

namespace detail {

void raise(fault_code code, severity level, std::string message, std::source_location where) {
    const fault report{code, level, std::move(message), where};
    if_memory_allows([&] { newest_fault = report; });
    counts[static_cast<std::size_t>(code) % codes].fetch_add(1, std::memory_order_relaxed);
    const fault_handler handler = installed.load();
    (handler != nullptr ? handler : &default_handler)(report);
}

void refuse_for_good(fault_code code, std::string message, std::source_location where) {
    raise(code, severity::misuse, message, where);
#if WIRED_COURIER_EXCEPTIONS
    throw misuse({code, severity::misuse, std::move(message), where});
#else
    std::abort();
#endif
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
    if (where.line() == 0) { // no file, such as what comes from another process
        return std::string{file};
    }
    file.remove_prefix(file.rfind('/') + 1);
    return std::string{file} + ":" + std::to_string(where.line());
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
