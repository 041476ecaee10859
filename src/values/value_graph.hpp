// What the nodes of one thread share; used between values.cpp, settle.cpp and refreshers.cpp.
#pragma once

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/values/value_core.hpp>

#include <cstddef>
#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct value_graph {
    std::size_t nodes = 0;    ///< and whoever needs the graph for a while
    std::size_t computed = 0; ///< of these, formulas and refreshers
    std::uint32_t next_born = 0;
    bool settling = false;
    std::vector<value_node*> changed;                  ///< states that were touched, in that order
    std::vector<reader_node*> queue;                   ///< refreshers and watched formulas that are stale
    std::vector<std::vector<reader_node*>*> in_flight; ///< those that are being looked at, the innermost last
    std::vector<std::vector<reader_node*>> spare;      ///< emptied ones, for their room
    value_node* direct = nullptr;  ///< a state with only plain refreshers as its readers, instead of queueing those
    dependency* further = nullptr; ///< the next of them, while they are run
    std::vector<refresher_node*> refreshers; ///< all, for reports; null where one has ended
    std::size_t ended_refreshers = 0;
    channel_core* refreshers_core = nullptr;
    dependency* free_dependencies = nullptr;
    std::vector<std::unique_ptr<dependency[]>> blocks;

    value_graph() = default;
    value_graph(const value_graph&) = delete;
    value_graph& operator=(const value_graph&) = delete;
    ~value_graph() {
        if (refreshers_core != nullptr) {
            close_core(*refreshers_core);
        }
    }
};

/// Calls a node's function.
inline void run(reader_node& node) {
    ++node.runs;
    node.ops->renew(node);
}

/// Marks what reads `from`, directly or not, and collects those that are to be looked at.
void mark_readers(value_graph& graph, value_node& from);

/// Puts a stale refresher or watched formula where it waits, unless it waits or sleeps.
void collect(value_graph& graph, reader_node& node);

/// Takes a node out of a list, in its place.
inline void take_out(std::vector<reader_node*>& list, const value_node& node) noexcept {
    if (node.place < list.size() && list[node.place] == &node) {
        list[node.place] = nullptr;
    }
}

/// Brings those that were collected up to date, in the order in which they were
/// made: runs refreshers, announces formulas. The list is empty afterwards.
void look_at(std::vector<reader_node*>& collected, first_failure& failed);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
