// SPDX-License-Identifier: MIT
#include "gateway/ask/wiring_json.hpp"

#include <array>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

using nlohmann::json;

json json_of(const wire_report& one) {
    return {{"name", one.name},
            {"cause", one.cause},
            {"target", one.target},
            {"file", one.file},
            {"line", one.line},
            {"live", one.live},
            {"waits_for_cause", one.waits_for_cause},
            {"waits_for_target", one.waits_for_target},
            {"caused", one.caused},
            {"otherwise", one.otherwise},
            {"failures", one.failures},
            {"last_failure", one.last_failure},
            {"delayed", one.delayed}};
}

json json_of(const edited_wire& one) {
    return {{"name", one.name}, {"when", one.when},       {"at", one.at},    {"note", one.note},
            {"line", one.line}, {"enabled", one.enabled}, {"text", one.text}};
}

json json_of(const std::vector<wiring_fault>& faults) {
    json all = json::array();
    for (const wiring_fault& one : faults) {
        all.push_back({{"code", id_of(one.code)},
                       {"file", one.file},
                       {"line", one.line},
                       {"column", one.column},
                       {"what", one.what},
                       {"advice", one.advice}});
    }
    return all;
}

json json_of(const value_shape& shape) {
    static constexpr std::array<std::string_view, 11> kinds{"truth",       "integer", "natural",  "real",
                                                            "enumeration", "text",    "duration", "object",
                                                            "optional",    "list",    "other"};
    return {
        {"kind", kinds[static_cast<std::size_t>(shape.kind)]}, {"words", in_words(shape)}, {"values", shape.values}};
}

json json_of(const std::vector<fitting_field>& fields) {
    json all = json::array();
    for (const fitting_field& one : fields) {
        all.push_back({{"name", one.name}, {"shape", json_of(one.shape)}, {"tests", one.tests}});
    }
    return all;
}

json json_of(const fitting_action& action) {
    json parameters = json::array();
    for (const fitting_parameter& one : action.parameters) {
        parameters.push_back({{"name", one.name},
                              {"shape", json_of(one.shape)},
                              {"may_be_left_out", one.may_be_left_out},
                              {"fields", one.fields},
                              {"states", one.states}});
    }
    return {{"name", action.name},
            {"target_kind", action.target_kind},
            {"targets", action.targets},
            {"parameters", parameters}};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
