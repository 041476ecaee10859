// When changes are announced, and what depends on them is looked at.
#include "delivery/in_flight.hpp"
#include "values/value_graph.hpp"

#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr int most_waves = 100;

bool is_before(const reader_node* a, const reader_node* b) noexcept {
    return a != nullptr && (b == nullptr || static_cast<std::int32_t>(a->born - b->born) < 0);
}

void put_in_order(std::vector<reader_node*>& list) {
    if (!std::is_sorted(list.begin(), list.end(), is_before)) {
        std::sort(list.begin(), list.end(), is_before);
        for (std::size_t i = 0; i < list.size() && list[i] != nullptr; ++i) {
            list[i]->place = static_cast<std::uint32_t>(i);
        }
    }
}

void look_at_one(reader_node& node) {
    if (node.stale) {
        refresh(node);
    }
    if (!node.is_refresher) {
        node.ops->announce(node);
    }
}

// From `at` on, until one throws; that is noted, and the next place returned.
std::size_t look_at_some([[maybe_unused]] flight& f, const std::vector<reader_node*>& list, std::size_t at,
                         [[maybe_unused]] first_failure& failed) {
    [[maybe_unused]] refresher_node* refresher = nullptr; // stays while the frame is there
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        for (; at < list.size(); ++at) {
            reader_node* const node = list[at];
            if (node == nullptr) {
                continue;
            }
            node->queued = false;
            if (!node->asleep) {
                refresher = node->is_refresher ? static_cast<refresher_node*>(node) : nullptr;
                look_at_one(*node);
            }
        }
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        if (refresher != nullptr) {
            note_failure(f, *refresher->self);
        } else {
            failed.run([] { throw; });
        }
    }
#endif
    return at + 1;
}

// The refreshers of one state, from the graph's `further` on until one throws.
void look_at_refreshers([[maybe_unused]] flight& f) {
    value_graph& graph = *this_values.graph;
    [[maybe_unused]] refresher_node* now = nullptr; // stays while the frame is there
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        while (dependency* const d = graph.further) {
            reader_node& refresher = *d->reader;
            graph.further = d->next_reader;
            if (graph.further != nullptr) {
                __builtin_prefetch(graph.further->reader);
                __builtin_prefetch(graph.further->next_reader);
            }
            if (d->seen == d->source->version) {
                continue;
            }
            if (refresher.asleep) {
                refresher.stale = true;
                continue;
            }
            now = static_cast<refresher_node*>(&refresher);
            refresher.because = d->source;
            refresher.stale = false;
            run(refresher);
        }
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        note_failure(f, *now->self);
    }
#endif
}

void look_at_direct(value_graph& graph, first_failure& failed) {
    graph.further = std::exchange(graph.direct, nullptr)->readers;
    failed.run([&] {
        walk_in_flight(refreshers_core(), std::source_location{}, [&](flight& f) {
            while (graph.further != nullptr) {
                look_at_refreshers(f);
            }
            return std::size_t{1};
        });
    });
}

} // namespace

void look_at(std::vector<reader_node*>& collected, first_failure& failed) {
    value_graph& graph = *this_values.graph;
    std::vector<reader_node*> list;
    reserve_by_halves(graph.in_flight, graph.in_flight.size() + 1);
    if (!graph.spare.empty()) {
        list = std::move(graph.spare.back());
        graph.spare.pop_back();
    }
    reserve_by_halves(list, graph.computed); // all that takes memory comes first; it is collected in from now on
    list.swap(collected);
    put_in_order(list);
    graph.in_flight.push_back(&list);
    failed.run([&] {
        walk_in_flight(refreshers_core(), std::source_location{}, [&](flight& f) {
            for (std::size_t at = 0; at < list.size();) {
                at = look_at_some(f, list, at, failed);
            }
            return list.size();
        });
    });
    graph.in_flight.pop_back();
    list.clear();
    if_memory_allows([&] { graph.spare.push_back(std::move(list)); });
}

namespace {

// What was set back to its old value has not changed.
// A comparison that throws has found no two values the same.
void compare_changed(value_graph& graph, first_failure& failed) {
    for (const bool formulas : {false, true}) { // those depend on states
        for (std::size_t i = 0; i < graph.changed.size(); ++i) {
            if (value_node* const node = graph.changed[i]; node != nullptr && node->computed == formulas) {
                if (node->stale) {
                    refresh(static_cast<reader_node&>(*node));
                }
                if (graph.changed[i] == node) { // still
                    failed.run([&] { node->ops->compare(*node); });
                }
            }
        }
    }
}

void announce_changed(value_graph& graph, first_failure& failed) {
    for (std::size_t i = 0; i < graph.changed.size(); ++i) { // their handlers may change more
        if (value_node* const node = graph.changed[i]; node != nullptr) {
            node->noted = false;
            graph.changed[i] = nullptr;
            if (!node->computed) { // formulas are announced with the refreshers
                failed.run([&] { node->ops->announce(*node); });
            }
        }
    }
    graph.changed.clear();
}

[[gnu::cold]] void report_restless(value_graph& graph) {
    std::string names;
    if (graph.direct != nullptr) {
        mark_readers(graph, *std::exchange(graph.direct, nullptr));
    }
    const auto name = [&](const value_node& node) { names += (names.empty() ? "" : ", ") + node.ops->describe(node); };
    for (value_node* node : graph.changed) {
        if (node != nullptr) {
            name(*node);
            node->noted = false;
        }
    }
    for (reader_node* node : graph.queue) {
        if (node != nullptr) {
            name(*node);
            node->queued = false;
        }
    }
    graph.changed.clear();
    graph.queue.clear();
    raise(fault_code::never_settles, severity::notice,
          "after " + std::to_string(most_waves) + " waves of changes there are still more: " + names +
              "; look for refreshers or handlers that change what makes them run",
          std::source_location{});
}

} // namespace

void settle() {
    value_graph* const graph = this_values.graph;
    if (graph == nullptr || graph->settling || this_hold.holds != 0 ||
        (graph->changed.empty() && graph->queue.empty() && graph->direct == nullptr)) {
        return;
    }
    first_failure failed;
    {
        const looking_away nothing_is_read;
        const graph_kept until_then;
        const while_true now(graph->settling);
        for (int wave = 0; !graph->changed.empty() || !graph->queue.empty() || graph->direct != nullptr; ++wave) {
            if (wave == most_waves) {
                report_restless(*graph);
                break;
            }
            compare_changed(*graph, failed);
            announce_changed(*graph, failed);
            if (graph->direct != nullptr) {
                look_at_direct(*graph, failed);
            } else {
                look_at(graph->queue, failed);
            }
        }
    }
    failed.rethrow();
}

void settle_at_end(bool thrown) {
    if (!thrown) {
        settle();
        return;
    }
    at_the_end("together", [] { settle(); });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
