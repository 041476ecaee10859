// What a request is answered with.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/json_reader.hpp"

#include <courier/config.hpp>
#include <courier/gateway/gateway_fault.hpp>

#include <nlohmann/json.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct reply {
    int status = 200;
    std::string type = "application/json";
    std::string body;
    std::optional<gateway_code> refused = {}; ///< to be counted
};

/// JSON, whatever texts it has in it.
[[nodiscard]] std::string as_text(const nlohmann::json& what);
[[nodiscard]] reply as_reply(const nlohmann::json& what);

/// Problem details as RFC 9457 has them: "what" is for people, `id_of(why)` for programs.
[[nodiscard]] reply refuse(gateway_code why, const std::string& what, const std::vector<json_fault>& wrong = {});
/// What came was right, and the game said no.
[[nodiscard]] reply failed_in_game(const std::string& why);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
