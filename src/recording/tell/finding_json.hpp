// Findings as the page takes them.
#pragma once

#include <courier/audit.hpp>
#include <courier/config.hpp>

#include <nlohmann/json.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] inline nlohmann::json json_of(const audit_report& report) {
    nlohmann::json all = nlohmann::json::array();
    for (const finding& one : report.findings) {
        all.push_back({{"code", id_of(one.code)},
                       {"what", one.what},
                       {"where", one.where},
                       {"what_to_do", one.what_to_do},
                       {"channel", one.channel},
                       {"party", one.party},
                       {"since_frame", one.since_frame}});
    }
    return all;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
