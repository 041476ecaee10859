// What the nodes of one thread share.
// SPDX-License-Identifier: MIT
#pragma once

#include "delivery/acting_as.hpp"
#include "values/scheduler.hpp"

#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/values/end_watch.hpp>
#include <courier/detail/values/value_core.hpp>

#include <cstddef>
#include <cstdint>
#include <memory>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct value_graph {
    std::size_t nodes = 0; ///< and whoever needs the graph for a while
    std::uint32_t next_born = 0;
    scheduler changes;
    std::vector<refresher_node*> refreshers; ///< all, for reports; null where one has ended
    std::size_t ended_refreshers = 0;
    channel_core* refreshers_core = nullptr;
    dependency* free_dependencies = nullptr;
    std::vector<std::unique_ptr<dependency[]>> blocks;
    std::vector<end_watch*> end_watches; ///< null where one is over
    std::vector<std::uint32_t> free_end_watches;

    value_graph() = default;
    value_graph(const value_graph&) = delete;
    value_graph& operator=(const value_graph&) = delete;
    ~value_graph() {
        if (refreshers_core != nullptr) {
            close_core(*refreshers_core);
        }
    }
};

/// Calls a reader's function; but not that of a refresher that has ended or was
/// paused while what it reads was brought up to date.
inline void run(reader_node& node) {
    if (node.status.is(reader_status::asleep)) {
        node.status.add(reader_status::stale);
        return;
    }
    ++node.runs;
    if (overseen() && node.kind != reader_kind::formula) [[unlikely]] {
        const acting_as owner(static_cast<refresher_node&>(node).self->owner);
        node.does->renew(node);
        return;
    }
    node.does->renew(node);
}

/// Takes a dependency out of its reader's sources; or away, out of its source's readers.
void unlink_source(dependency& d) noexcept;
void free_dependency(dependency& d) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
