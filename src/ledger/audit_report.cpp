#include <courier/audit.hpp>

#include <algorithm>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr std::array<std::string_view, 20> ids{
    "courier.audit.growing",       "courier.audit.outlived",        "courier.audit.never-served",
    "courier.audit.unheard",       "courier.audit.never-published", "courier.audit.nobody-there",
    "courier.audit.handler-twice", "courier.audit.could-be-local",  "courier.audit.every-frame",
    "courier.audit.over-budget",   "courier.audit.circle",          "courier.audit.waits-for-ever",
    "courier.audit.order-matters", "courier.audit.left-waiting",    "courier.audit.unexpected",
    "courier.audit.never-came",    "courier.audit.always-fails",    "courier.audit.cause-ended",
    "courier.audit.nothing-seen",  "courier.audit.needless-accept"};
constexpr std::string_view common = "courier.audit.";

} // namespace

std::string_view id_of(finding_code code) noexcept {
    return ids[static_cast<std::size_t>(code)];
}

std::optional<finding_code> finding_code_named(std::string_view name) noexcept {
    name.remove_prefix(name.starts_with(common) ? common.size() : 0);
    const auto* const found =
        std::find_if(ids.begin(), ids.end(), [=](std::string_view one) { return one.substr(common.size()) == name; });
    return found != ids.end() ? std::optional(static_cast<finding_code>(found - ids.begin())) : std::nullopt;
}

std::vector<std::string> finding_code_names() {
    std::vector<std::string> all;
    all.reserve(ids.size());
    for (const std::string_view one : ids) {
        all.emplace_back(one.substr(common.size()));
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
               std::to_string(f.since_frame) + "\n  do     " + f.what_to_do + "\n";
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
