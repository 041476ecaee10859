// SPDX-License-Identifier: MIT
// States, formulas and refreshers as the nodes of a graph.
#include "values/value_graph.hpp"

#include <courier/detail/base/at_the_end.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <cstdlib>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit value_thread this_values;

graph_kept::graph_kept() {
    if (this_values.graph == nullptr) {
        this_values.graph = new value_graph;
        this_hold.refreshers = &settle;
    }
    ++this_values.graph->nodes;
}

namespace {

void leave_one() noexcept {
    if (--this_values.graph->nodes == 0) {
        delete std::exchange(this_values.graph, nullptr);
        this_values.work &= value_thread::settling; // whoever settles says when that is over
    }
}

} // namespace

graph_kept::~graph_kept() {
    leave_one();
}

void enter_graph(source_node& node) {
    const graph_kept meanwhile;
    ++this_values.graph->nodes;
    node.thread = checked_build ? this_thread_number() : 0;
}

void enter_graph(reader_node& node) {
    const graph_kept meanwhile;
    value_graph& graph = *this_values.graph;
    graph.changes.enter_reader();
    ++graph.nodes;
    node.born = graph.next_born++;
}

void enter_graph(formula_node& node) {
    enter_graph(static_cast<reader_node&>(node)); // from here on nothing fails
    enter_graph(static_cast<source_node&>(node));
}

bool watch_end(source_node& node, end_watch& by) {
    value_graph& graph = *this_values.graph;
    if (node.end_watch != 0) {
        return false;
    }
    if (graph.free_end_watches.empty()) {
        const std::size_t count = graph.end_watches.size() + 1;
        reserve_by_halves(graph.free_end_watches, count);
        graph.end_watches.push_back(nullptr);
        graph.free_end_watches.push_back(static_cast<std::uint32_t>(count));
    }
    node.end_watch = graph.free_end_watches.back();
    graph.free_end_watches.pop_back();
    graph.end_watches[node.end_watch - 1] = &by;
    return true;
}

void unwatch_end(source_node& node) noexcept {
    value_graph& graph = *this_values.graph;
    graph.end_watches[node.end_watch - 1] = nullptr;
    graph.free_end_watches.push_back(std::exchange(node.end_watch, 0)); // for which there is room
}

void leave_graph(source_node& node) noexcept {
    if (node.end_watch != 0) {
        end_watch& by = *this_values.graph->end_watches[node.end_watch - 1];
        unwatch_end(node);
        by.value_ended();
    }
    while (node.readers != nullptr) { // what was read of it stays as it is
        dependency& d = *node.readers;
        unlink_source(d);
        free_dependency(d);
    }
    this_values.graph->changes.forget(node);
    leave_one();
}

void leave_graph(reader_node& node) noexcept {
    node.cursor = &node.sources;
    drop_unread(node);
    this_values.graph->changes.forget(node);
    leave_one();
}

void leave_graph(formula_node& node) noexcept {
    leave_graph(static_cast<source_node&>(node));
    leave_graph(static_cast<reader_node&>(node));
}

void make_room_for_change() {
    this_values.graph->changes.make_room_for_change();
}

void note_changed(source_node& node) {
    this_values.graph->changes.note(node);
}

void touch(source_node& state) {
    this_values.graph->changes.change(state);
}

void settle_after_one() {
    this_values.graph->changes.settle(1);
}

#if WIRED_COURIER_EXCEPTIONS
void settle_after_failure() {
    first_failure failed;
    failed.run([] { throw; });
    this_values.work &= value_thread::waiting;
    if (this_values.work != 0) {
        failed.run([] { settle_after_one(); });
    }
    failed.rethrow();
    std::abort(); // not reached
}
#endif

void settle() {
    if (value_graph* const graph = this_values.graph; graph != nullptr) {
        graph->changes.settle();
    }
}

void settle_at_end(bool thrown) {
    if (!thrown) {
        settle();
        return;
    }
    at_the_end("together", [] { settle(); });
}

bool check_use(const source_node& node, const char* what, std::source_location where) {
    if (const std::uint32_t here = this_thread_number(); node.thread != here) {
        raise(fault_code::wrong_thread, severity::misuse,
              node.ops->describe(node) + " belongs to " + describe_thread(node.thread) + " and is " + what + " by " +
                  describe_thread(here),
              "cross threads through an inbox", where);
        return false;
    }
    return true;
}

bool may_change_meanwhile(const source_node& state, std::source_location where) {
    if (state.in_use) [[unlikely]] {
        raise(
            fault_code::changed_in_use, severity::refused,
            state.ops->describe(state) +
                " is set by a comparison, copy or move of its own values in the middle of a change, and stays as it is",
            "set it from a handler or a refresher", where);
        return false;
    }
    if (checked_build && !check_use(state, "set", where)) {
        return false; // it would be lost among the other thread's changes
    }
    const reader_node* const reader = this_values.reader;
    if (reader == nullptr || reader->kind != reader_kind::formula) {
        return true;
    }
    raise(fault_code::set_in_formula, severity::misuse,
          state.ops->describe(state) + " is set by " + reader->does->describe(*reader) + ", which is being computed",
          "let a formula only read and return; set the state from a handler or a refresher", where);
    return false;
}

void report_ended_in_use(const source_node& node) noexcept {
    raise(fault_code::changed_in_use, severity::misuse,
          node.ops->describe(node) + " is destroyed by its own function, or by a comparison of its values",
          "destroy it from a handler or a refresher", std::source_location{});
}

void report_circle(const reader_node& formula) {
    std::string way;
    for (const reader_node* r = this_values.reader; r != nullptr && r != &formula; r = r->outer) {
        way.insert(0, " -> " + r->does->describe(*r));
    }
    const std::string name = formula.does->describe(formula);
    raise(fault_code::formula_circle, severity::misuse, name + " needs its own value: " + name + way + " -> " + name,
          "break the circle, or read one of them with glance()", std::source_location{});
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
