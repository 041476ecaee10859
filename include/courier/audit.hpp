// Finds mistakes in the use of channels, present and to come.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>
#include <courier/finding_code.hpp>
#include <courier/game_time.hpp>
#include <courier/ledger.hpp>

#include <cstdint>
#include <functional>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// One thing that an audit found.
struct finding {
    finding_code code;
    std::string what;  ///< with names and numbers
    std::string where; ///< lines of code
    std::string advice;
    std::string channel; ///< the one that it is about
    std::string party;   ///< the subscriber or publisher it is about; empty when it is about none
    std::uint64_t since_frame = 0;
};

/// When something is worth a finding, written as `{.budget = 2ms}`.
struct audit_options {
    /// What a handler may take, typically.
    std::chrono::nanoseconds budget = std::chrono::milliseconds(1);
    /// Frames before something that did not happen, or happens in each frame,
    /// counts. Books without frames are judged as they are.
    std::uint64_t patience = 60;
    /// How many more subscriptions a line of code must have at the end than at
    /// the beginning to be growing.
    std::uint64_t growth = 8;
    /// How often a chain of causes must come back to its channel.
    std::uint64_t returns = 3;
    /// Findings that are as they should be, besides those that the books have.
    std::vector<accepted_finding> accepted = {};
};

/// A finding, and why it is as it should be.
struct acceptance_met {
    finding found;
    std::string reason;
};

/// Everything that an audit found.
struct audit_report {
    std::vector<finding> findings;        ///< by code, then in the order of the books
    std::vector<acceptance_met> accepted; ///< the same, of those that were accepted; see accept_finding()

    /// Whether nothing was found that is not accepted.
    [[nodiscard]] bool clean() const noexcept { return findings.empty(); }
    /// How many there are of a code.
    [[nodiscard]] std::size_t count(finding_code code) const noexcept;
    /// For people: four lines for each finding, one for each that was accepted, and a line with the sum.
    [[nodiscard]] std::string text() const;
};

/// Looks through books, be they a ledger's or those of a recording:
///
///     CHECK(courier::audit(night.read()).clean());
[[nodiscard]] audit_report audit(const books& of, const audit_options& options = {});

/// Subscriptions made after `mark` (`ledger::latest_subscription()`) that are
/// still live, on the channels of `of`.
[[nodiscard]] std::vector<subscription_books> live_since(const ledger& of, std::uint32_t mark);

/// Whatever is subscribed in a scope has ended when the scope is left; else
/// `left` gets those that have not. Without `left`,
/// `fault_code::subscriptions_left` is raised (a notice).
///
///     {
///         const courier::ends_with_scope here(night);
///         wyrm_fight fight(reef);
///         ...
///     }
class ends_with_scope {
public:
    using report = std::function<void(const std::vector<subscription_books>&)>;

    /// `of` must outlive it. `where` is for the fault.
    explicit ends_with_scope(const ledger& of, report left = {},
                             std::source_location where = std::source_location::current());
    ends_with_scope(const ends_with_scope&) = delete;
    ends_with_scope& operator=(const ends_with_scope&) = delete;
    ~ends_with_scope();

private:
    const ledger& of_;
    std::uint32_t mark_;
    report left_;
    std::source_location where_;
};

WIRED_COURIER_NAMESPACE_END
