// SPDX-License-Identifier: MIT
#include "gateway/ask/by_name.hpp"

#include "data/named_place.hpp"

#include <source_location>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

reply refusal_of(const console_answer& answer) {
    const console_fault& fault = *answer.fault;
    std::string told = fault.what;
    if (!fault.advice.empty()) {
        told += "; " + fault.advice;
    }
    switch (fault.code) {
    case console_code::unknown_name:
        return refuse(gateway_code::unknown_path, told);
    case console_code::does_not_fit:
        return refuse(gateway_code::does_not_fit, told, answer.misfits);
    default:
        return failed_in_game(told);
    }
}

/// Places are kept, so that only those of names that are there are made.
std::source_location place_of_request(bool is_there, std::string_view path, const std::string& name) {
    return named_place("POST " + std::string(path) + (is_there ? name : std::string()), 0);
}

/// What a call has apart from the parameters.
std::vector<json_fault> misfits_around(const nlohmann::json& body) {
    if (!body.is_object()) {
        return {{json_code::wrong_type, R"(the text must be an object with "parameters" in it)", {}, {}}};
    }
    std::vector<json_fault> wrong;
    for (const auto& [key, value] : body.items()) {
        if (key != "parameters" && (key != "at" || !value.is_string())) {
            wrong.push_back({json_code::unknown_field, "has no meaning here", "/" + key,
                             R"(a call has "parameters", and "at", a text)"});
        }
    }
    return wrong;
}

} // namespace

reply publish_by_name(const console& by, const std::string& channel, const std::string& at, const std::string& body) {
    const console_answer got =
        by.publish(channel, body, at, place_of_request(by.publishes(channel), "/channels/", channel));
    if (!got) {
        return refusal_of(got);
    }
    return as_reply(
        {{"served", got.served.served()}, {"stopped", got.served.stopped()}, {"closed", got.served.closed()}});
}

reply call_by_name(const console& by, const std::string& action, const nlohmann::json& body) {
    const bool is_there = by.calls(action);
    if (const std::vector<json_fault> wrong = misfits_around(body); is_there && !wrong.empty()) {
        return refuse(gateway_code::does_not_fit, "the call does not fit '" + action + "'; nothing was done", wrong);
    }
    std::string parameters = "{}";
    std::string object;
    if (is_there) {
        object = body.value("at", object);
        if (const auto given = body.find("parameters"); given != body.end()) {
            parameters = as_text(*given);
        }
    }
    const console_answer got = by.call(action, parameters, object, place_of_request(is_there, "/actions/", action));
    if (!got) {
        return refusal_of(got);
    }
    nlohmann::json told{{"done", true}};
    if (!got.answer.empty()) {
        told["answer"] = nlohmann::json::parse(got.answer);
    }
    return as_reply(told);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
