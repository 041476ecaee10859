// What two runs differ in.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// An event in words that mean the same in every run: without numbers of
/// events and subscriptions, and without times that were measured.
[[nodiscard]] std::string in_words(const run& of, const recorded_event& event);

/// How two runs are compared.
struct comparison_options {
    /// Whether lines of code count: where something was published, and of parties without a
    /// name the line of their subscription. Without them, an edit that moves code changes nothing.
    bool lines = false;
};

/// An event in which two runs differ.
struct run_difference {
    const recorded_event* one = nullptr;   ///< null: only the other run has it
    const recorded_event* other = nullptr; ///< null: only the first run has it
    std::vector<std::string> what;         ///< fields that differ: "payload: {…} | {…}"
};

/// The events on one channel, posts among them.
struct channel_comparison {
    std::string channel;
    std::uint64_t same = 0;
    std::uint64_t changed = 0; ///< in both runs, with fields that differ
    std::uint64_t only_one = 0;
    std::uint64_t only_other = 0;
};

/// How far two runs are the same.
struct run_comparison {
    std::uint64_t same_before = 0; ///< events before the first difference
    std::optional<run_difference> first;
    std::uint64_t same = 0;                    ///< events in all
    std::vector<channel_comparison> channels;  ///< with differences, the most first
    std::map<std::string, std::uint64_t> what; ///< how many changed events differ in "payload", "heard by", ...
    std::vector<std::string> facts;            ///< that differ: "seed: 7 | 8"

    /// Whether no event differs.
    [[nodiscard]] bool equal() const noexcept { return !first.has_value(); }
};

/// Event by event, in the order in which they came. Behind a difference it goes on with the next
/// events that both runs have, as far as there are any within 64. Facts that differ do not make
/// runs unequal, nor do fields that only payloads of `other` have.
[[nodiscard]] run_comparison compare(const run& one, const run& other, const run_filter& filter = {},
                                     const comparison_options& options = {});

/// What differs between two events of two runs; empty: nothing.
[[nodiscard]] std::vector<std::string> differences(const run& one, const recorded_event& a, const run& other,
                                                   const recorded_event& b, const comparison_options& options = {});

WIRED_COURIER_NAMESPACE_END
