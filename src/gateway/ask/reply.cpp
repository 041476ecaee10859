// SPDX-License-Identifier: MIT
#include "gateway/ask/reply.hpp"

#include "gateway/http/http_server.hpp"

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

reply problem(int status, std::string_view title, std::string_view type, const std::string& what) {
    const nlohmann::json body{{"type", type}, {"title", title}, {"status", status}, {"detail", what}};
    return {status, "application/problem+json", as_text(body), {}};
}

} // namespace

std::string as_text(const nlohmann::json& what) {
    return what.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

reply as_reply(const nlohmann::json& what) {
    return {200, "application/json", as_text(what), {}};
}

reply refuse(gateway_code why, const std::string& what, const std::vector<json_fault>& wrong) {
    const http_refusal told = as_http(why);
    nlohmann::json body{{"type", id_of(why)}, {"title", told.title}, {"status", told.status}, {"detail", what}};
    for (const json_fault& one : wrong) {
        nlohmann::json error{{"type", id_of(one.code)}, {"pointer", "#" + one.where}, {"detail", one.what}};
        if (!one.advice.empty()) {
            error["advice"] = one.advice;
        }
        body["errors"].push_back(std::move(error));
    }
    return {told.status, "application/problem+json", as_text(body), why};
}

reply failed_in_game(const std::string& why) {
    return problem(409, "Conflict", id_of(gateway_code::failed), why);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
