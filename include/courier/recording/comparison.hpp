// What two runs differ in.
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// An event in words that mean the same in every run: without numbers of
/// events and subscriptions, and without times that were measured.
[[nodiscard]] std::string in_words(const run& of, const recorded_event& event);

struct run_difference {
    const recorded_event* one = nullptr;   ///< null: the run has ended
    const recorded_event* other = nullptr; ///< the same
    std::vector<std::string> what;         ///< fields that differ: "payload: {…} | {…}"
};

struct count_difference {
    std::string channel;
    std::uint64_t one = 0; ///< publishes
    std::uint64_t other = 0;
};

struct run_comparison {
    std::uint64_t same = 0; ///< events before the first difference
    std::optional<run_difference> first;
    std::vector<count_difference> counts; ///< channels that differ, in either run
    std::vector<std::string> facts;       ///< that differ: "seed: 7 | 8"

    [[nodiscard]] bool equal() const noexcept { return !first && counts.empty(); }
};

/// Event by event, in the order in which they came. Facts that differ do not
/// make runs unequal.
[[nodiscard]] run_comparison compare(const run& one, const run& other, const run_filter& filter = {});

/// What differs between two events of two runs; empty: nothing.
[[nodiscard]] std::vector<std::string> differences(const run& one, const recorded_event& a, const run& other,
                                                   const recorded_event& b);

WIRED_COURIER_NAMESPACE_END
