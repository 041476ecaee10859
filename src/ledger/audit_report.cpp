#include <courier/audit.hpp>

#include <algorithm>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(finding_code code) noexcept {
    constexpr std::array<std::string_view, 18> ids{
        "courier.audit.growing",       "courier.audit.outlived",        "courier.audit.never-served",
        "courier.audit.unheard",       "courier.audit.never-published", "courier.audit.nobody-there",
        "courier.audit.handler-twice", "courier.audit.could-be-local",  "courier.audit.every-frame",
        "courier.audit.over-budget",   "courier.audit.circle",          "courier.audit.waits-for-ever",
        "courier.audit.order-matters", "courier.audit.left-waiting",    "courier.audit.unexpected",
        "courier.audit.never-came",    "courier.audit.always-fails",    "courier.audit.cause-ended"};
    return ids[static_cast<std::size_t>(code)];
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
    return all + (clean() ? "no findings\n" : std::to_string(findings.size()) + " findings\n");
}

WIRED_COURIER_NAMESPACE_END
