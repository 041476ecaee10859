// The books that an audit judges, and its findings so far.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/audit.hpp>
#include <courier/config.hpp>

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct finding_list {
    finding_list(const books& its_books, const audit_options& its_options) : of(its_books), options(its_options) {}

    const books& of;
    const audit_options& options;
    audit_report report;

    void add(finding_code code, std::string what, std::string where, std::string advice, std::string channel,
             std::string subscriber, std::uint64_t since) {
        report.findings.push_back({code, std::move(what), std::move(where), std::move(advice), std::move(channel),
                                   std::move(subscriber), since});
    }

    // Whether `since` is long enough ago to judge what has not happened.
    [[nodiscard]] bool long_enough(std::uint64_t since, std::optional<std::uint64_t> until = {}) const noexcept {
        const std::uint64_t past = until.value_or(of.frames);
        return of.frames == 0 || past - std::min(since, past) >= options.patience;
    }
};

// Rules that need the books only. Two handlers of one stage that depend on their order.
void find_orders(finding_list& in);
void find_nothing_seen(finding_list& in);
void find_reads_nothing(finding_list& in);
/// Payloads and calls that nobody serves.
void find_left_waiting(finding_list& in);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
