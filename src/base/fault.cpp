// SPDX-License-Identifier: MIT
#include <courier/fault.hpp>

#include "of_this_thread.hpp"

#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <array>
#include <atomic>
#include <cstddef>
#include <cstdio>
#include <cstdlib>
#include <iterator>
#include <memory>
#include <mutex>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

/// The handler of the process. A lock is enough: faults are rare.
class installed_handler {
public:
    fault_handler exchange(fault_handler handler) {
        auto next = handler ? std::make_shared<const fault_handler>(std::move(handler)) : nullptr;
        const std::lock_guard lock(mutex_);
        handler_.swap(next);
        return next != nullptr ? *next : fault_handler{};
    }
    /// Stays whole while it runs, also when it installs another one.
    std::shared_ptr<const fault_handler> get() {
        const std::lock_guard lock(mutex_);
        return handler_;
    }

private:
    std::mutex mutex_;
    std::shared_ptr<const fault_handler> handler_;
};
installed_handler& installed() {
    static auto* const all = new installed_handler; // NOLINT: faults may come after all statics have ended
    return *all;
}

struct newest_fault {
    std::optional<fault> raised;
};

/// In the order of `fault_code`; not with its enumeration, since that would make the headers dearer.
constexpr std::array<std::string_view, fault_codes> ids{
    "courier.too-deep",       "courier.wrong-thread",  "courier.empty-handler",      "courier.stage-clash",
    "courier.handler-twice",  "courier.channel-full",  "courier.closed-channel",     "courier.module-has-subscriptions",
    "courier.two-libraries",  "courier.relay-circle",  "courier.second-answerer",    "courier.unknown-channel",
    "courier.name-clash",     "courier.nested-round",  "courier.inbox-full",         "courier.not-quiet",
    "courier.bad-interval",   "courier.failure-lost",  "courier.channel-hidden",     "courier.set-in-formula",
    "courier.formula-circle", "courier.second-ledger", "courier.subscriptions-left", "courier.never-settles",
    "courier.move-refused",   "courier.system-circle", "courier.system-missing",     "courier.system-there",
    "courier.changed-in-use", "courier.level-over",    "courier.sequence-lost",
};

std::array<std::atomic<std::uint64_t>, fault_codes> counts{};

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
        std::copy_if(report.what.begin(), report.what.end(), std::back_inserter(key),
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
        const std::string line = report.text() + "\n";
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
    throw fault_error(report);
#else
    std::abort(); // the report is in last_fault(), for the debugger
#endif
}

} // namespace

std::string_view id_of(fault_code code) noexcept {
    return ids[static_cast<std::size_t>(code)];
}

fault_error::fault_error(const courier::fault& report)
    : std::logic_error(report.text()), fault_(new const courier::fault(report)) {}

std::string fault::text() const {
    return fault_text(where.line() != 0 ? detail::place(where) : "", what, advice, id_of(code));
}

fault_handler set_fault_handler(fault_handler handler) {
    return installed().exchange(std::move(handler));
}

const fault* last_fault() noexcept {
    const auto& latest = detail::of_this_thread<newest_fault>().raised;
    return latest ? &*latest : nullptr;
}

std::uint64_t fault_count(fault_code code) noexcept {
    return counts[static_cast<std::size_t>(code)].load(std::memory_order_relaxed);
}

std::uint64_t fault_count() noexcept {
    std::uint64_t sum = 0;
    for (const auto& count : counts) {
        sum += count.load(std::memory_order_relaxed);
    }
    return sum;
}

namespace detail {

void raise(fault_code code, severity level, std::string what, std::string advice, std::source_location where) {
    const fault report{code, level, std::move(what), where, std::move(advice)};
    if_memory_allows([&] { detail::of_this_thread<newest_fault>().raised = report; });
    counts[static_cast<std::size_t>(code)].fetch_add(1, std::memory_order_relaxed);
    if (const std::shared_ptr<const fault_handler> handler = installed().get(); handler != nullptr) {
        (*handler)(report);
    } else {
        default_handler(report);
    }
}

void refuse_for_good(fault_code code, std::string what, std::string advice, std::source_location where) {
    raise(code, severity::misuse, what, advice, where);
#if WIRED_COURIER_EXCEPTIONS
    throw fault_error(fault{code, severity::misuse, std::move(what), where, std::move(advice)});
#else
    std::abort();
#endif
}

void report_changed_in_use() {
    raise(
        fault_code::changed_in_use, severity::misuse,
        "a group or a tally is changed by the hash, comparison, copy or end of one of its members, in the middle of a "
        "change",
        "change it from a handler", std::source_location{});
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
