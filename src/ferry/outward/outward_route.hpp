// What leaves, and where it goes.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/json_writer.hpp"
#include "ferry/topics.hpp"

#include <courier/config.hpp>
#include <courier/ferry/guarantee.hpp>

#include <chrono>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What a message is, as the end of its CloudEvents type.
enum class crossing_kind : std::uint8_t { payload, value, question, answer, no_answer, process };
[[nodiscard]] std::string_view type_of(crossing_kind kind) noexcept;

/// As the ferry's thread knows it: text, since the module that it is from may go. It does not
/// change once it is entered, but for its number.
struct outward_route {
    std::uint32_t number = 0;
    crossing_kind kind = crossing_kind::payload;
    topic_pattern topic;
    courier::guarantee guarantee = courier::guarantee::at_least_once;
    courier::encoding encoding = courier::encoding::json;
    bool is_kept = false;                      ///< by the broker
    std::chrono::milliseconds answer_limit{0}; ///< of questions; nobody waits for the answer any longer
    std::vector<schema_node> fields;

    std::uint64_t newest = 0; ///< number of a message; the ferry's thread's

    /// Whether it is for the same, made anew.
    [[nodiscard]] bool is_as(const outward_route& other) const {
        return kind == other.kind && topic == other.topic && guarantee == other.guarantee &&
               encoding == other.encoding && is_kept == other.is_kept && answer_limit == other.answer_limit;
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
