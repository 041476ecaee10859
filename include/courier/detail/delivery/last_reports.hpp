// What owners that have ended last said of themselves, for as long as a ledger keeps it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>

#include <cstddef>
#include <memory>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Reports of any types. An outbox that ends with payloads in it, a set of phases and the like
/// leave their last report here, so that a ledger, or a recorder, that outlives them has it.
class last_reports {
public:
    /// Of one type; beyond these none is kept.
    static constexpr std::size_t most = 256;

    last_reports() = default;
    last_reports(const last_reports&) = delete;
    last_reports& operator=(const last_reports&) = delete;
    ~last_reports() = default;

    /// In the place of an earlier one of this key. Without memory it is not kept.
    template <class Report>
    void keep(const std::string& key, Report report) noexcept {
        if_memory_allows([&] {
            shelf<Report>& all = shelf_of<Report>();
            const auto found = all.by_key.find(key);
            if (found != all.by_key.end()) {
                all.reports[found->second] = std::move(report);
            } else if (all.reports.size() < most) {
                all.reports.reserve(all.reports.size() + 1);
                all.by_key.emplace(key, all.reports.size());
                all.reports.push_back(std::move(report));
            }
        });
    }
    /// Calls `visit` with each, in the order in which their owners ended first.
    template <class Report, class Visit>
    void each(Visit visit) const {
        for (const auto& [kind, reports] : shelves_) {
            if (kind == &kind_of<Report>) {
                for (const Report& one : static_cast<const shelf<Report>&>(*reports).reports) {
                    visit(one);
                }
            }
        }
    }

private:
    struct any_shelf {
        any_shelf() = default;
        any_shelf(const any_shelf&) = delete;
        any_shelf& operator=(const any_shelf&) = delete;
        virtual ~any_shelf() = default;
    };
    template <class Report>
    struct shelf final : any_shelf {
        std::vector<Report> reports;
        std::unordered_map<std::string, std::size_t> by_key;
    };
    template <class Report>
    static constexpr char kind_of = 0; ///< its address stands for the type

    template <class Report>
    shelf<Report>& shelf_of() {
        for (const auto& [kind, reports] : shelves_) {
            if (kind == &kind_of<Report>) {
                return static_cast<shelf<Report>&>(*reports);
            }
        }
        return static_cast<shelf<Report>&>(
            *shelves_.emplace_back(&kind_of<Report>, std::make_unique<shelf<Report>>()).second);
    }

    std::vector<std::pair<const char*, std::unique_ptr<any_shelf>>> shelves_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
