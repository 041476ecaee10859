// What may come in: payloads for channels, and actions. All of it on the game's thread.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/reply.hpp"
#include "wiring/run/wiring_core.hpp"

#include <courier/config.hpp>
#include <courier/data/detail/payload_door.hpp>
#include <courier/wiring/catalogue.hpp>

#include <nlohmann/json.hpp>

#include <memory>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class offers {
public:
    void add(std::shared_ptr<payload_door> door);
    /// `action` empty: all of them.
    void add(const std::shared_ptr<wiring_core>& of, std::string_view action);

    /// Publishes what `body` has the fields of.
    [[nodiscard]] reply publish(const std::string& channel, const std::string& at, const nlohmann::json& body) const;
    /// Calls an action: `body` has its "parameters", and "at" which object.
    [[nodiscard]] reply call(const std::string& action, const nlohmann::json& body) const;

    /// Adds what may come in to what goes out.
    void list(catalogue& all) const;

private:
    struct some_actions {
        std::weak_ptr<wiring_core> of;
        std::string only; ///< empty: all
    };
    struct found_action {
        std::shared_ptr<action_base> action;
        std::shared_ptr<wiring_core> of;
        std::vector<std::string> names; ///< of all, if it was not found
    };
    [[nodiscard]] found_action find(std::string_view name) const;

    std::vector<std::shared_ptr<payload_door>> doors_;
    std::vector<some_actions> actions_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
