// SPDX-License-Identifier: MIT
// What is told of systems: who needs whom, and what could be updated at one time.
#include "system_parts.hpp"

#include <courier/systems.hpp>

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/last_reports.hpp>
#include <courier/detail/delivery/oversight.hpp>

#include <algorithm>
#include <iterator>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

namespace {

/// Numbers of systems, a bit for each.
class index_set {
public:
    explicit index_set(std::size_t count) : words_((count + 63) / 64) {}
    void add(std::size_t index) { words_[index / 64] |= std::uint64_t{1} << (index % 64); }
    void add(const index_set& other) {
        for (std::size_t i = 0; i < words_.size(); ++i) {
            words_[i] |= other.words_[i];
        }
    }
    [[nodiscard]] bool meets(const index_set& other) const {
        for (std::size_t i = 0; i < words_.size(); ++i) {
            if ((words_[i] & other.words_[i]) != 0) {
                return true;
            }
        }
        return false;
    }

private:
    std::vector<std::uint64_t> words_;
};

/// What one system may touch when it is updated, through others as well.
struct touched {
    index_set changes;
    index_set reads;
};

bool in_conflict(const touched& a, const touched& b) {
    return a.changes.meets(b.changes) || a.changes.meets(b.reads) || a.reads.meets(b.changes);
}

} // namespace

std::vector<std::size_t> systems_core::waves() const {
    const std::size_t count = parts.entries.size();
    std::vector<touched> all(count, {index_set(count), index_set(count)});
    std::vector<std::size_t> wave(count);
    for (std::size_t i = 0; i < count; ++i) {
        all[i].changes.add(i);
        for (const system_need& need : parts.entries[i].needs) {
            const system_entry* const needed = entry_of(need.key);
            if (needed == nullptr) {
                continue;
            }
            const touched& its = all[static_cast<std::size_t>(needed - parts.entries.data())];
            (need.changes ? all[i].changes : all[i].reads).add(its.changes);
            all[i].reads.add(its.reads);
        }
        for (std::size_t k = 0; k < i; ++k) {
            if (parts.entries[k].ops->update != nullptr && parts.entries[i].ops->update != nullptr &&
                in_conflict(all[i], all[k])) {
                wave[i] = std::max(wave[i], wave[k] + 1);
            }
        }
    }
    return wave;
}

std::vector<system_report> system_reports_of(const systems_core& core) {
    const std::vector<std::size_t> waves = core.waves();
    std::vector<system_report> all;
    for (std::size_t i = 0; i < core.parts.entries.size(); ++i) {
        const system_entry& entry = core.parts.entries[i];
        if (entry.ended) {
            continue;
        }
        system_report& one = all.emplace_back();
        one.name = entry.name;
        for (const system_need& need : entry.needs) {
            const auto needed = std::find_if(core.parts.entries.begin(), core.parts.entries.end(),
                                             [&](const auto& e) { return e.key == need.key && !e.ended; });
            one.needs.push_back({needed != core.parts.entries.end() ? needed->name : "?", need.changes});
        }
        for (const std::uint32_t in : entry.teams) {
            one.teams.push_back(core.team(in)->name);
        }
        one.lent = entry.ops->destroy == nullptr;
        one.updated = entry.ops->update != nullptr;
        one.paused = !entry.active;
        one.wave = waves[i];
    }
    return all;
}

void systems_core::keep_reports() const noexcept {
    if (overseen()) [[unlikely]] {
        if_memory_allows([this] {
            for (system_report& one : system_reports_of(*this)) {
                const std::string key = name + '/' + one.name;
                this_oversight.last->keep(key, std::move(one));
            }
        });
    }
}

} // namespace detail

std::vector<system_report> systems::list() const {
    return detail::system_reports_of(*core_);
}

std::vector<system_report> list_systems() {
    std::vector<system_report> all;
    for (const detail::systems_core* core = detail::newest_systems(); core != nullptr; core = core->next) {
        std::vector<system_report> its = detail::system_reports_of(*core);
        all.insert(all.begin(), std::make_move_iterator(its.begin()), std::make_move_iterator(its.end()));
    }
    return all;
}

WIRED_COURIER_NAMESPACE_END
