// What has come already, and what has not.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/crossing_id.hpp"

#include <courier/config.hpp>

#include <array>
#include <cstddef>
#include <cstdint>
#include <deque>
#include <map>
#include <string>
#include <string_view>
#include <unordered_map>
#include <unordered_set>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The numbers that came from each sender, as ranges: one, where none is missing. So a number
/// that somebody has made up stands for itself, and for none that is still to come. Belongs to
/// the ferry's thread.
class seen_numbers {
public:
    /// `shares`: others take some of what is sent, and may pass old ones on.
    seen_numbers(std::size_t max_senders, bool shares) : most_senders_(max_senders), shares_(shares) {}

    struct finding {
        bool is_new = true;
        std::uint64_t missing = 0; ///< between the highest before and this one
    };
    [[nodiscard]] finding note(std::string_view source, const crossing_id& id);
    /// The same for an id that is no ferry's: whether it is none of the latest ones.
    [[nodiscard]] bool note(std::string_view source, std::string_view id);

private:
    static constexpr std::size_t most_ranges = 1024;
    static constexpr std::size_t most_others = 1024;
    static constexpr std::uint64_t farthest_step = std::uint64_t{1} << 20;
    struct sender {
        std::map<std::uint64_t, std::uint64_t> seen; ///< the first of each range, and its last
        std::uint64_t highest = 0;                   ///< as far as it is believed
    };
    sender& sender_of(std::string_view source, const crossing_id& id);

    const std::size_t most_senders_;
    const bool shares_;
    std::unordered_map<std::string, sender> senders_;
    std::deque<std::string> order_; ///< of their coming
    std::unordered_set<std::string> others_;
    std::deque<std::string> order_of_others_;
    std::string key_;
    std::string newest_key_;
    sender* newest_ = nullptr;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
