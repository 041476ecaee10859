// What the nodes of one thread share; used between values.cpp, settle.cpp and views.cpp.
#pragma once

#include <courier/detail/channel_core.hpp>
#include <courier/detail/first_failure.hpp>
#include <courier/detail/value_core.hpp>

#include <cstddef>
#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

struct value_graph {
    std::size_t nodes = 0;
    std::uint32_t next_born = 0;
    bool settling = false;
    std::vector<value_node*> changed;                  ///< states that were touched, in that order
    std::vector<reader_node*> queue;                   ///< views and watched formulas that are stale
    std::vector<std::vector<reader_node*>*> in_flight; ///< those that are being looked at, the innermost last
    std::vector<std::vector<reader_node*>> spare;      ///< emptied ones, for their room
    value_node* direct = nullptr;  ///< a state with only plain views as its readers, instead of queueing those
    dependency* further = nullptr; ///< the next of them, while they are run
    std::vector<view_node*> views; ///< all, for reports; null where one has ended
    std::size_t ended_views = 0;
    channel_core* views_core = nullptr;
    dependency* free_dependencies = nullptr;
    std::vector<std::unique_ptr<dependency[]>> blocks;

    value_graph() = default;
    value_graph(const value_graph&) = delete;
    value_graph& operator=(const value_graph&) = delete;
    ~value_graph() {
        if (views_core != nullptr) {
            close_core(*views_core);
        }
    }
};

/// The graph outlives its last node meanwhile.
class graph_kept {
public:
    explicit graph_kept(value_graph& graph) noexcept : graph_(graph) { ++graph_.nodes; }
    graph_kept(const graph_kept&) = delete;
    graph_kept& operator=(const graph_kept&) = delete;
    ~graph_kept() {
        if (--graph_.nodes == 0) {
            delete std::exchange(this_values.graph, nullptr);
        }
    }

private:
    value_graph& graph_;
};

/// Calls a node's function.
inline void run(reader_node& node) {
    ++node.runs;
    node.ops->renew(node);
}

/// Makes the thread's graph, if there is none.
value_graph& open_graph();

/// Marks what reads `from`, directly or not, and collects those that are to be looked at.
void mark_readers(value_graph& graph, value_node& from);

/// Puts a stale view or watched formula where it waits, unless it waits or sleeps.
void collect(value_graph& graph, reader_node& node);

/// Takes a node out of a list, in its place.
inline void take_out(std::vector<reader_node*>& list, const value_node& node) noexcept {
    if (node.place < list.size() && list[node.place] == &node) {
        list[node.place] = nullptr;
    }
}

/// Brings those that were collected up to date, in the order in which they were
/// made: runs views, announces formulas. The list is empty afterwards.
void look_at(std::vector<reader_node*>& collected, first_failure& failed);

} // namespace courier::inline WIRED_COURIER_ABI::detail
