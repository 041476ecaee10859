// SPDX-License-Identifier: MIT
#include <courier/audit.hpp>
#include <courier/detail/base/stable_id.hpp>

#include <algorithm>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr std::string_view common = "courier.audit.";

} // namespace

std::string_view id_of(finding_code code) noexcept {
    return detail::stable_id(code);
}

std::optional<finding_code> finding_code_named(std::string_view name) noexcept {
    name.remove_prefix(name.starts_with(common) ? common.size() : 0);
    const auto& all = detail::values_of<finding_code>;
    const auto* const found = std::find_if(
        all.begin(), all.end(), [=](const detail::enum_value& one) { return one.name.substr(common.size()) == name; });
    return found != all.end() ? std::optional(static_cast<finding_code>(found->value)) : std::nullopt;
}

std::vector<std::string> finding_code_names() {
    std::vector<std::string> all;
    all.reserve(detail::values_of<finding_code>.size());
    for (const detail::enum_value& one : detail::values_of<finding_code>) {
        all.emplace_back(one.name.substr(common.size()));
    }
    return all;
}

std::size_t audit_report::count(finding_code code) const noexcept {
    return static_cast<std::size_t>(
        std::count_if(findings.begin(), findings.end(), [=](const finding& f) { return f.code == code; }));
}

std::string audit_report::text() const {
    std::string all;
    for (const finding& f : findings) {
        all += std::string{id_of(f.code)} + "\n  what   " + f.what + "\n  where  " + f.where + "\n  since  frame " +
               std::to_string(f.since_frame) + "\n  do     " + f.advice + "\n";
    }
    for (const acceptance_met& one : accepted) {
        all += "accepted: " + std::string{id_of(one.found.code)} + ", " + one.found.what + ": " + one.reason + "\n";
    }
    const auto counted = [](std::size_t count) {
        return count == 0 ? "no findings" : std::to_string(count) + (count == 1 ? " finding" : " findings");
    };
    return all + counted(findings.size()) +
           (accepted.empty() ? "\n" : ", and " + std::to_string(accepted.size()) + " accepted\n");
}

WIRED_COURIER_NAMESPACE_END
