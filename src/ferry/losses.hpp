// Payloads that did not cross: counted by either thread, told by the game's.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/ferry/ferry_fault.hpp>

#include <array>
#include <atomic>
#include <cstdint>
#include <map>
#include <mutex>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// For any thread.
class losses {
public:
    void add(ferry_code why, std::string_view topic, std::uint64_t times = 1, std::string_view what = {}) noexcept;
    /// What is new since the last time.
    [[nodiscard]] std::vector<payloads_lost> take();
    [[nodiscard]] std::uint64_t count(ferry_code why) const noexcept {
        return all_[static_cast<std::size_t>(why)].load(std::memory_order_relaxed);
    }

private:
    static constexpr std::size_t most_topics = 256; ///< told apart; more are told as one without a topic

    std::array<std::atomic<std::uint64_t>, ferry_losses> all_{};
    std::atomic<bool> has_news_{false};
    std::mutex guard_;
    std::map<std::pair<ferry_code, std::string>, payloads_lost> news_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
