// Wires looked at, checked, tried and written anew from outside.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/game_calls.hpp"
#include "gateway/ask/reply.hpp"
#include "gateway/ask/snapshot.hpp"
#include "wiring/run/wiring_core.hpp"

#include <courier/config.hpp>
#include <courier/wiring/wiring.hpp>

#include <nlohmann/json.hpp>

#include <atomic>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One wiring, as it stands.
struct wiring_state {
    bool is_there = false;
    std::string name;
    courier::catalogue has;
    std::vector<wire_report> wires;
    std::vector<std::string> missing;
    std::vector<std::filesystem::path> files; ///< that can be written
    std::vector<std::filesystem::path> all_files;
};

class wiring_desk {
public:
    explicit wiring_desk(game_calls& calls);

    /// On the game's thread.
    void open(wiring& of);
    [[nodiscard]] bool is_open() const noexcept { return is_open_.load(std::memory_order_acquire); }

    // From the server's threads. `what` is what stands behind "/wiring/": "check", "fits",
    // "change", "try", "save".
    [[nodiscard]] reply look();
    [[nodiscard]] reply ask(std::string_view what, const nlohmann::json& body);

private:
    [[nodiscard]] reply check(const nlohmann::json& body, const wiring_state& now) const;
    [[nodiscard]] reply fits(const nlohmann::json& body, const wiring_state& now) const;
    [[nodiscard]] reply change(const nlohmann::json& body, const wiring_state& now) const;
    [[nodiscard]] reply try_once(const nlohmann::json& body);
    [[nodiscard]] reply save(const nlohmann::json& body, const wiring_state& now);
    [[nodiscard]] reply reload();

    game_calls& calls_;
    std::atomic<bool> is_open_{false};
    wiring* of_ = nullptr; ///< the game's thread's own, as the next
    std::weak_ptr<wiring_core> is_there_;
    snapshot<wiring_state> latest_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
