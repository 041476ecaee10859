// States, formulas and refreshers: what depends on what, and when it is looked at.
//
// A change marks everything that depends on it, however far away, and collects
// the refreshers and watched formulas among it; then each of those is brought up to
// date from below: a node calls its function again only if the version of
// something that it read is another one than it saw. So each function runs once
// for a change however many ways lead to it, and none sees a mixture of old and new.
#include "values/value_graph.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <memory>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit value_thread this_values;

namespace {

constexpr std::size_t block_size = 64;

dependency& take_dependency(value_graph& graph, reader_node& reader) {
    if (reader.first.source == nullptr) {
        return reader.first;
    }
    if (graph.free_dependencies == nullptr) {
        graph.blocks.push_back(std::make_unique<dependency[]>(block_size));
        for (std::size_t i = block_size; i-- > 0;) {
            dependency& d = graph.blocks.back()[i];
            d.next_source = std::exchange(graph.free_dependencies, &d);
        }
    }
    dependency& taken = *graph.free_dependencies;
    graph.free_dependencies = taken.next_source;
    return taken;
}

bool is_other(const reader_node& reader) noexcept {
    return !reader.is_refresher || reader.is_paced;
}

// Puts `d` behind its source's other readers.
void link_reader(dependency& d) noexcept {
    value_node& source = *d.source;
    if (source.readers == nullptr) {
        source.readers_in_order = true;
    } else if (static_cast<std::int32_t>(d.reader->born - source.newest_reader) < 0) {
        source.readers_in_order = false;
    }
    source.newest_reader = d.reader->born;
    source.other_readers += is_other(*d.reader) ? 1U : 0U;
    d.next_reader = nullptr;
    d.back_to_reader = source.readers_end;
    *source.readers_end = &d;
    source.readers_end = &d.next_reader;
}

// Takes `d` out of its source's readers.
void unlink_reader(dependency& d) noexcept {
    d.source->other_readers -= is_other(*d.reader) ? 1U : 0U;
    if (this_values.graph->further == &d) {
        this_values.graph->further = d.next_reader;
    }
    *d.back_to_reader = d.next_reader;
    if (d.next_reader != nullptr) {
        d.next_reader->back_to_reader = d.back_to_reader;
    } else {
        d.source->readers_end = d.back_to_reader;
    }
}

void free_dependency(dependency& d) noexcept {
    unlink_reader(d);
    if (d.reader->walk == &d) {
        d.reader->walk = d.next_source;
    }
    if (d.reader->because == d.source) {
        d.reader->because = nullptr;
    }
    if (&d == &d.reader->first) {
        d.source = nullptr;
    } else {
        d.next_source = std::exchange(this_values.graph->free_dependencies, &d);
    }
}

template <class Node>
void enqueue(std::vector<Node*>& queue, Node& node) {
    node.place = static_cast<std::uint32_t>(queue.size());
    node.queued = true;
    queue.push_back(&node);
}

// A refresher that is run once per round: the outbox is told to remind us.
void enqueue_in_outbox(refresher_node& refresher) {
    errand_desk* const desk = desk_of(*refresher.through);
    if (desk == nullptr) {
        return;
    }
    if (desk->refreshers.empty() && !desk->post(desk->run_refreshers)) {
        return; // the next change tries again
    }
    enqueue<reader_node>(desk->refreshers, refresher);
}

} // namespace

void collect(value_graph& graph, reader_node& node) {
    if (node.queued || node.asleep) {
        return;
    }
    if (node.is_paced) {
        enqueue_in_outbox(static_cast<refresher_node&>(node));
    } else {
        enqueue(graph.queue, node);
    }
}

void mark_readers(value_graph& graph, value_node& from) {
    reader_node* next = nullptr;
    for (value_node* node = &from; node != nullptr;) {
        for (dependency *d = node->readers, *further = nullptr; d != nullptr; d = further) {
            further = d->next_reader;
            reader_node& reader = *d->reader;
            const bool was_stale = std::exchange(reader.stale, true);
            if (reader.is_refresher) {
                collect(graph, reader);
                continue;
            }
            if (reader.told && reader.ops->is_watched(reader)) {
                collect(graph, reader);
            }
            if (!was_stale && reader.readers != nullptr) {
                reader.up = next;
                next = &reader;
            }
        }
        node = next;
        if (next != nullptr) {
            next = next->up;
        }
    }
}

namespace {

// The source that has to be refreshed before it can be told whether `node` must
// run again, or null; then `must_run` says so.
reader_node* next_stale_source(reader_node& node, bool& must_run) noexcept {
    must_run = node.runs == 0;
    for (dependency* d = node.walk; d != nullptr && !must_run; d = d->next_source) {
        value_node& source = *d->source;
        if (source.stale && !source.climbing && !source.running) {
            node.walk = d;
            return static_cast<reader_node*>(&source); // states are never stale
        }
        if (source.version != d->seen) {
            node.because = &source;
            must_run = true;
        } else if (source.running || source.stale) {
            must_run = true; // perhaps it does not read that any more; if it does, that is a circle
        }
    }
    return nullptr;
}

void start_climbing(reader_node& node, reader_node* for_whom) noexcept {
    node.up = for_whom;
    node.walk = node.sources;
    node.climbing = true;
}

} // namespace

graph_kept::graph_kept() {
    if (this_values.graph == nullptr) {
        this_values.graph = new value_graph;
        this_hold.refreshers = &settle;
    }
    ++this_values.graph->nodes;
}

graph_kept::~graph_kept() {
    if (--this_values.graph->nodes == 0) {
        delete std::exchange(this_values.graph, nullptr);
    }
}

void enter_graph(value_node& node) {
    const graph_kept meanwhile;
    value_graph& graph = *this_values.graph;
    if (node.computed) { // so that queueing it needs no memory
        reserve_by_halves(graph.queue, graph.computed + 1);
        ++graph.computed;
    }
    ++graph.nodes;
    node.born = graph.next_born++;
    node.thread = checked_build ? this_thread_number() : 0;
}

void make_room_for_change() {
    std::vector<value_node*>& changed = this_values.graph->changed;
    reserve_by_halves(changed, changed.size() + 2); // a key of a map, and the whole of it
}

void leave_graph(value_node& node) noexcept {
    value_graph& graph = *this_values.graph;
    while (node.readers != nullptr) { // what was read of it stays as it is
        dependency& d = *node.readers;
        dependency** at = &d.reader->sources;
        while (*at != &d) {
            at = &(*at)->next_source;
        }
        if (d.reader->cursor == &d.next_source) {
            d.reader->cursor = at;
        }
        *at = d.next_source;
        free_dependency(d);
    }
    node.cursor = &node.sources;
    drop_unread(node);
    if (graph.direct == &node) {
        graph.direct = nullptr;
    }
    if (node.noted && node.noted_place < graph.changed.size()) {
        graph.changed[node.noted_place] = nullptr;
    }
    if (node.queued) {
        take_out(graph.queue, node);
        for (std::vector<reader_node*>* list : graph.in_flight) {
            take_out(*list, node);
        }
    }
    graph.computed -= node.computed ? 1U : 0U;
    if (--graph.nodes == 0) {
        delete std::exchange(this_values.graph, nullptr);
    }
}

void drop_unread(value_node& reader) noexcept {
    dependency* d = std::exchange(*reader.cursor, nullptr);
    while (d != nullptr) {
        dependency* const next = d->next_source;
        free_dependency(*d);
        d = next;
    }
}

void note_other_read(reader_node& reader, value_node& source) {
    // Most often something was read once more, or something was left out.
    for (dependency* d = reader.sources; d != *reader.cursor; d = d->next_source) {
        if (d->source == &source) {
            d->seen = source.version;
            return;
        }
    }
    dependency* const expected = *reader.cursor;
    if (expected != nullptr && expected->next_source != nullptr && expected->next_source->source == &source) {
        *reader.cursor = expected->next_source;
        free_dependency(*expected);
    } else {
        dependency& made = take_dependency(*this_values.graph, reader);
        made.source = &source;
        made.reader = &reader;
        made.next_source = expected;
        link_reader(made);
        *reader.cursor = &made;
    }
    (*reader.cursor)->seen = source.version;
    reader.cursor = &(*reader.cursor)->next_source;
}

void refresh(reader_node& top) {
    if (top.climbing) { // one of those that it read the last time, which is running, reads it now
        top.stale = false;
        run(top);
        return;
    }
    start_climbing(top, nullptr);
    for (reader_node* node = &top; node != nullptr;) {
        bool must_run = false;
        if (node->stale) {
            if (reader_node* const source = next_stale_source(*node, must_run); source != nullptr) {
                start_climbing(*source, node);
                node = source;
                continue;
            }
        }
        reader_node* const up = node->up; // which stays, as it says itself should it not
        node->climbing = false;
        node->stale = false;
        if (must_run) {
            run(*node); // only a refresher throws, and that is the top
        }
        node = up;
    }
}

bool check_use(const value_node& node, const char* what, std::source_location where) {
    if (const std::uint32_t here = this_thread_number(); node.thread != here) {
        const std::string at = where.line() != 0 ? " at " + place(where) : std::string{};
        raise(fault_code::wrong_thread, severity::misuse,
              node.ops->describe(node) + " belongs to " + describe_thread(node.thread) + " and is " + what + at +
                  " by " + describe_thread(here) + "; cross threads through an inbox",
              where);
        return false;
    }
    return true;
}

bool may_change(const value_node& state, std::source_location where) {
    if (state.running) [[unlikely]] {
        raise(fault_code::changed_in_use, severity::refused,
              state.ops->describe(state) + " is set at " + place(where) +
                  " by a comparison, copy or move of its own values, in the middle of a change; it stays as it is. Set "
                  "it from a handler or a refresher",
              where);
        return false;
    }
    if (checked_build && !check_use(state, "set", where)) {
        return false; // it would be lost among the other thread's changes
    }
    const reader_node* const reader = this_values.reader;
    if (reader == nullptr || reader->is_refresher) {
        return true;
    }
    raise(fault_code::set_in_formula, severity::misuse,
          state.ops->describe(state) + " is set at " + place(where) + " by " + reader->ops->describe(*reader) +
              ", which is being computed; a formula reads and returns. Set it from a handler or a refresher",
          where);
    return false;
}

void note_changed(value_node& node) {
    if (!node.noted) {
        std::vector<value_node*>& changed = this_values.graph->changed;
        changed.push_back(&node);
        node.noted_place = static_cast<std::uint32_t>(changed.size() - 1);
        node.noted = true;
    }
}

void touch(value_node& state) {
    value_graph& graph = *this_values.graph;
    if (this_hold.holds != 0 || (state.told && state.ops->is_watched(state))) {
        note_changed(state); // which takes memory; else nothing has changed
    }
    state.version = next_version();
    if (state.readers == nullptr || graph.direct == &state) {
        return;
    }
    if (graph.direct == nullptr && graph.queue.empty() && state.other_readers == 0 && state.readers_in_order &&
        this_hold.holds == 0 && !graph.settling) {
        graph.direct = &state; // its refreshers are run without being queued
        return;
    }
    if (graph.direct != nullptr) {
        mark_readers(graph, *std::exchange(graph.direct, nullptr));
    }
    mark_readers(graph, state);
}

void report_ended_in_use(const value_node& node) noexcept {
    raise(fault_code::changed_in_use, severity::misuse,
          node.ops->describe(node) + " is destroyed by its own function, or by a comparison of its values, which go on "
                                     "in it; destroy it from a handler or a refresher",
          std::source_location{});
}

void report_circle(const value_node& formula) {
    std::string way;
    for (const reader_node* r = this_values.reader; r != nullptr && r != &formula; r = r->outer) {
        way.insert(0, " -> " + r->ops->describe(*r));
    }
    const std::string name = formula.ops->describe(formula);
    raise(fault_code::formula_circle, severity::misuse,
          name + " needs its own value: " + name + way + " -> " + name +
              "; break the circle, or read one of them with glance()",
          std::source_location{});
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
