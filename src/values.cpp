// States, formulas and views: what depends on what, and when it is looked at.
//
// A change marks everything that depends on it, however far away, and collects
// the views and watched formulas among it; then each of those is brought up to
// date from below: a node calls its function again only if the version of
// something that it read is another one than it saw. So each function runs once
// for a change however many ways lead to it, and none sees a mixture of old and new.
#include "in_flight.hpp"
#include "subscriptions.hpp"

#include <courier/detail/at_the_end.hpp>
#include <courier/detail/errands.hpp>
#include <courier/detail/first_failure.hpp>
#include <courier/detail/sequence_core.hpp>
#include <courier/detail/value_core.hpp>
#include <courier/fault.hpp>
#include <courier/keep_current.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <memory>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit value_thread this_values;

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

namespace {

constexpr std::size_t block_size = 64;
constexpr int most_waves = 100;

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
    return !reader.is_view || reader.is_paced;
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

void take_out(std::vector<reader_node*>& list, const value_node& node) noexcept {
    if (node.place < list.size() && list[node.place] == &node) {
        list[node.place] = nullptr;
    }
}

// A view that is run once per round: the outbox is told to remind us.
void enqueue_in_outbox(view_node& view) {
    errand_desk* const desk = desk_of(*view.through);
    if (desk == nullptr) {
        return;
    }
    if (desk->views.empty()) {
        desk->post(desk->run_views);
    }
    enqueue<reader_node>(desk->views, view);
}

void collect(value_graph& graph, reader_node& node) {
    if (node.queued || node.asleep) {
        return;
    }
    if (node.is_paced) {
        enqueue_in_outbox(static_cast<view_node&>(node));
    } else {
        enqueue(graph.queue, node);
    }
}

// Marks what reads `from`, directly or not.
void mark_readers(value_graph& graph, value_node& from) {
    reader_node* next = nullptr;
    for (value_node* node = &from; node != nullptr;) {
        for (dependency *d = node->readers, *further = nullptr; d != nullptr; d = further) {
            further = d->next_reader;
            if (further != nullptr) {
                __builtin_prefetch(further->next_reader);
            }
            reader_node& reader = *d->reader;
            const bool was_stale = std::exchange(reader.stale, true);
            if (reader.is_view) {
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

void run(reader_node& node) {
    ++node.runs;
    node.ops->renew(node);
}

} // namespace

void enter_graph(value_node& node) {
    if (this_values.graph == nullptr) {
        this_values.graph = new value_graph;
    }
    value_graph& graph = *this_values.graph;
    ++graph.nodes;
    node.born = graph.next_born++;
    node.thread = checked_build ? this_thread_number() : 0;
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
    drop_unread(static_cast<reader_node&>(node));
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
    if (--graph.nodes == 0) {
        delete std::exchange(this_values.graph, nullptr);
    }
}

void drop_unread(reader_node& reader) noexcept {
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
        reader_node* const up = node->up;
        node->climbing = false;
        node->stale = false;
        if (must_run) {
            run(*node); // only a view throws, and that is the top
        }
        node = up;
    }
}

bool may_change(const value_node& state, std::source_location where) {
    if (checked_build && state.thread != this_thread_number()) {
        raise(fault_code::wrong_thread, severity::misuse,
              state.ops->describe(state) + " belongs to " + describe_thread(state.thread) + " and is set at " +
                  place(where) + " by " + describe_thread(this_thread_number()) + "; cross threads through an inbox",
              where);
    }
    const reader_node* const reader = this_values.reader;
    if (reader == nullptr || reader->is_view) {
        return true;
    }
    raise(fault_code::set_in_formula, severity::misuse,
          state.ops->describe(state) + " is set at " + place(where) + " by " + reader->ops->describe(*reader) +
              ", which is being computed; a formula reads and returns. Set it from a handler or a view",
          where);
    return false;
}

void note_changed(value_node& node) {
    if (!node.noted) {
        std::vector<value_node*>& changed = this_values.graph->changed;
        node.noted_place = static_cast<std::uint32_t>(changed.size());
        node.noted = true;
        changed.push_back(&node);
    }
}

void touch(value_node& state) {
    value_graph& graph = *this_values.graph;
    state.version = next_version();
    if (this_values.together != 0 || (state.told && state.ops->is_watched(state))) {
        note_changed(state);
    }
    if (state.readers == nullptr || graph.direct == &state) {
        return;
    }
    if (graph.direct == nullptr && graph.queue.empty() && state.other_readers == 0 && state.readers_in_order &&
        this_values.together == 0 && !graph.settling) {
        graph.direct = &state; // its views are run without being queued
        return;
    }
    if (graph.direct != nullptr) {
        mark_readers(graph, *std::exchange(graph.direct, nullptr));
    }
    mark_readers(graph, state);
}

namespace {

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

// What most views are: one that read a state, which has changed.
bool must_run_at_once(reader_node& node) noexcept {
    const dependency* const d = node.sources;
    if (d == nullptr || d->source->stale || d->source->running || d->source->version == d->seen) {
        return false;
    }
    node.because = d->source;
    return true;
}

void look_at_one(reader_node& node) {
    if (node.stale) {
        if (must_run_at_once(node)) {
            node.stale = false;
            run(node);
        } else {
            refresh(node);
        }
    }
    if (!node.is_view) {
        node.ops->announce(node);
    }
}

// From `at` on, until one throws; that is noted, and the next place returned.
std::size_t look_at_some([[maybe_unused]] frame& f, const std::vector<reader_node*>& list, std::size_t at,
                         [[maybe_unused]] first_failure& failed) {
    [[maybe_unused]] view_node* view = nullptr; // stays while the frame is there
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        for (; at < list.size(); ++at) {
            reader_node* const node = list[at];
            if (node == nullptr) {
                continue;
            }
            if (at + 2 < list.size()) {
                __builtin_prefetch(list[at + 2]);
            }
            node->queued = false;
            if (!node->asleep) {
                view = node->is_view ? static_cast<view_node*>(node) : nullptr;
                look_at_one(*node);
            }
        }
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        if (view != nullptr) {
            note_failure(f, *view->self);
        } else {
            failed.run([] { throw; });
        }
    }
#endif
    return at + 1;
}

// The views of one state, from the graph's `further` on until one throws.
void look_at_views([[maybe_unused]] frame& f) {
    value_graph& graph = *this_values.graph;
    [[maybe_unused]] view_node* now = nullptr; // stays while the frame is there
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        while (dependency* const d = graph.further) {
            reader_node& view = *d->reader;
            graph.further = d->next_reader;
            if (graph.further != nullptr) {
                __builtin_prefetch(graph.further->reader);
                __builtin_prefetch(graph.further->next_reader);
            }
            if (d->seen == d->source->version) {
                continue;
            }
            if (view.asleep) {
                view.stale = true;
                continue;
            }
            now = static_cast<view_node*>(&view);
            view.because = d->source;
            view.stale = false;
            run(view);
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
        walk_in_frame(views_core(), std::source_location{}, [&](frame& f) {
            while (graph.further != nullptr) {
                look_at_views(f);
            }
            return std::size_t{1};
        });
    });
}

// Views and watched formulas, in the order in which they were made.
void look_at(std::vector<reader_node*>& collected, first_failure& failed) {
    value_graph& graph = *this_values.graph;
    std::vector<reader_node*> list;
    if (!graph.spare.empty()) {
        list = std::move(graph.spare.back());
        graph.spare.pop_back();
    }
    list.swap(collected);
    put_in_order(list);
    graph.in_flight.push_back(&list);
    failed.run([&] {
        walk_in_frame(views_core(), std::source_location{}, [&](frame& f) {
            for (std::size_t at = 0; at < list.size();) {
                at = look_at_some(f, list, at, failed);
            }
            return list.size();
        });
    });
    graph.in_flight.pop_back();
    list.clear();
    graph.spare.push_back(std::move(list));
}

// What was set back to its old value has not changed.
void compare_changed(value_graph& graph) {
    for (const bool formulas : {false, true}) { // those depend on states
        for (std::size_t i = 0; i < graph.changed.size(); ++i) {
            if (value_node* const node = graph.changed[i]; node != nullptr && node->computed == formulas) {
                if (node->stale) {
                    refresh(static_cast<reader_node&>(*node));
                }
                node->ops->compare(*node);
            }
        }
    }
}

void announce_changed(value_graph& graph, first_failure& failed) {
    for (std::size_t i = 0; i < graph.changed.size(); ++i) { // their handlers may change more
        if (value_node* const node = graph.changed[i]; node != nullptr) {
            node->noted = false;
            graph.changed[i] = nullptr;
            if (!node->computed) { // formulas are announced with the views
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
              "; look for views or handlers that change what makes them run",
          std::source_location{});
}

} // namespace

void settle() {
    value_graph* const graph = this_values.graph;
    if (graph == nullptr || graph->settling || this_values.together != 0 ||
        (graph->changed.empty() && graph->queue.empty() && graph->direct == nullptr)) {
        return;
    }
    first_failure failed;
    {
        const looking_away nothing_is_read;
        const graph_kept kept(*graph);
        graph->settling = true;
        for (int wave = 0; !graph->changed.empty() || !graph->queue.empty() || graph->direct != nullptr; ++wave) {
            if (wave == most_waves) {
                report_restless(*graph);
                break;
            }
            compare_changed(*graph);
            announce_changed(*graph, failed);
            if (graph->direct != nullptr) {
                look_at_direct(*graph, failed);
            } else {
                look_at(graph->queue, failed);
            }
        }
        graph->settling = false;
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

void go_on_after_pause() noexcept {
    if (this_values.graph != nullptr) {
        at_the_end("views", [] { settle(); });
    }
    at_the_end("sequences", [] { go_on_sequences(); });
}

void report_circle(const value_node& formula) {
    std::string way;
    for (const reader_node* r = this_values.reader; r != nullptr && r != &formula; r = r->outer) {
        way.insert(0, " -> " + r->ops->describe(*r));
    }
    const std::string name = formula.ops->describe(formula);
    raise(fault_code::formula_circle, severity::misuse,
          name + " needs its own value: " + name + way + " -> " + name +
              "; break the circle, or read one of them with peek()",
          std::source_location{});
}

channel_core& views_core() {
    value_graph& graph = *this_values.graph;
    if (graph.views_core == nullptr) {
        graph.views_core = open_core("views");
    }
    return *graph.views_core;
}

namespace {

// Runs views that no change is to be settled for; what they change is settled
// when they have returned.
template <class Run>
void run_then_settle(Run run_them) {
    first_failure failed;
    {
        const looking_away nothing_is_read;
        value_graph& graph = *this_values.graph;
        const graph_kept kept(graph);
        const bool settling = std::exchange(graph.settling, true);
        failed.run([&] { run_them(failed); });
        graph.settling = settling;
    }
    failed.run([] { settle(); });
    failed.rethrow();
}

void run_collected(std::vector<reader_node*>& views) {
    if (this_values.graph != nullptr) { // else all of them are gone
        run_then_settle([&](first_failure& failed) { look_at(views, failed); });
    }
}

} // namespace

view_node::~view_node() {
    if (self == nullptr) {
        return; // it was never in
    }
    if (queued && through != nullptr && through->errands != nullptr) {
        take_out(through->errands->views, *this);
    }
    value_graph& graph = *this_values.graph;
    graph.views[listed] = nullptr;
    if (++graph.ended_views * 2 > graph.views.size()) {
        std::erase(graph.views, nullptr);
        graph.ended_views = 0;
        for (std::size_t i = 0; i < graph.views.size(); ++i) {
            graph.views[i]->listed = i;
        }
    }
    leave_graph(*this);
    if (through != nullptr) {
        release(*through);
    }
}

void open_views() {
    if (this_values.graph == nullptr) {
        this_values.graph = new value_graph;
    }
}

void enter_view(view_node& view, slot& self) {
    view.self = &self;
    enter_graph(view);
    view.is_paced = view.through != nullptr;
    view.listed = this_values.graph->views.size();
    this_values.graph->views.push_back(&view);
    if (view.through != nullptr) {
        retain(*view.through);
        if (errand_desk* const desk = desk_of(*view.through); desk != nullptr && !desk->runs_views) {
            desk->runs_views = true;
            desk->run_views =
                desk->enroll([](void* who) { run_collected(static_cast<errand_desk*>(who)->views); }, desk);
        }
    }
    view.stale = true;
    view.asleep = self.blocked != 0;
}

void begin_view(view_node& view) {
    if (view.asleep) {
        return;
    }
    run_then_settle([&](first_failure&) {
        walk_in_frame(views_core(), view.self->where, [&]([[maybe_unused]] frame& f) -> std::size_t {
            [[maybe_unused]] slot& self = *view.self;
#if WIRED_COURIER_EXCEPTIONS
            try {
#endif
                refresh(view);
#if WIRED_COURIER_EXCEPTIONS
            } catch (...) {
                note_failure(f, self);
            }
#endif
            return 1;
        });
    });
}

void tell_view(view_node& view, bool blocked) noexcept {
    view.asleep = blocked;
    if (!view.asleep && view.stale && !view.queued) {
        collect(*this_values.graph, view);
        go_on_after_pause();
    }
}

} // namespace detail

std::vector<view_report> list_views() {
    std::vector<view_report> all;
    if (detail::this_values.graph == nullptr) {
        return all;
    }
    for (const detail::view_node* view : detail::this_values.graph->views) {
        if (view == nullptr) {
            continue;
        }
        const detail::slot& self = *view->self;
        view_report one{self.where, self.owner != nullptr ? self.owner->name : std::string{},
                        view->runs, {},
                        {},         (self.blocked & ~detail::block_ended) != 0};
        for (const detail::dependency* d = view->sources; d != nullptr; d = d->next_source) {
            one.depends_on.push_back(d->source->ops->describe(*d->source));
        }
        if (view->because != nullptr) {
            one.because = view->because->ops->describe(*view->because);
        }
        if ((self.blocked & detail::block_ended) == 0) {
            all.push_back(std::move(one));
        }
    }
    return all;
}

} // namespace courier::inline WIRED_COURIER_ABI
