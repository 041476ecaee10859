// A message that leaves, until the broker has it.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/chunk_queue.hpp"
#include "data/packed.hpp"
#include "ferry/crossing_id.hpp"
#include "ferry/losses.hpp"
#include "ferry/mqtt/mqtt_client.hpp"
#include "ferry/outward/outward_route.hpp"

#include <courier/config.hpp>

#include <chrono>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct outward_message {
    crossing_head head;
    std::chrono::steady_clock::time_point confirmed_at{};
    std::string payload;
    bool only_latest = false;      ///< a value: the next one of its topic takes its place, if it still waits
    bool outlives_process = false; ///< what was promised; values, questions and answers are of no use to another life
    bool is_from_file = false;     ///< and still in it
    /// A question's, after which it need not be sent; else not set.
    std::chrono::steady_clock::time_point until{};

    [[nodiscard]] bool is_question() const noexcept { return until != std::chrono::steady_clock::time_point{}; }
    [[nodiscard]] bool is_late(std::chrono::steady_clock::time_point now) const noexcept {
        return is_question() && until <= now;
    }
    /// In memory, about.
    [[nodiscard]] std::size_t bytes() const noexcept { return payload.size() + head.topic.size() + 256; }
};

/// A message as a line of a file: a CloudEvent, with what MQTT needs besides.
[[nodiscard]] std::string line_of(const outward_message& one);
/// Nothing where the line is none.
[[nodiscard]] std::optional<outward_message> read_line(std::string_view line);

/// Makes messages of what the game's thread packed. Belongs to the ferry's thread.
class message_maker {
public:
    message_maker(std::string process, std::uint64_t run, std::size_t largest, losses& lost);

    /// `more` gives the routes that are not known yet.
    using route_source = std::function<std::vector<std::shared_ptr<outward_route>>(std::size_t known)>;
    void make(const chunk& packed, const route_source& more, const std::function<void(outward_message&&)>& to);

private:
    [[nodiscard]] std::optional<outward_message> next(packed_reader& in);
    [[nodiscard]] std::string written(packed_reader& in, const outward_route& route);

    const std::string process_;
    const std::uint64_t run_;
    const std::string run_text_;
    const std::size_t largest_;
    losses& lost_;
    std::vector<std::shared_ptr<outward_route>> routes_;
    fmt::memory_buffer text_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
