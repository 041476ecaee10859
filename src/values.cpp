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
    std::vector<value_node*> changed;  ///< states that were touched, in that order
    std::vector<value_node*> queue;    ///< views and watched formulas that are stale
    std::vector<std::vector<value_node*>*> in_flight; ///< those that are being looked at, the innermost last
    std::vector<std::vector<value_node*>> spare;      ///< emptied ones, for their room
    std::uint64_t newest_version = 1;
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

dependency& take_dependency(value_graph& graph) {
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

// Takes `d` out of its source's readers.
void unlink_reader(dependency& d) noexcept {
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
    value_graph& graph = *this_values.graph;
    d.next_source = std::exchange(graph.free_dependencies, &d);
}

void enqueue(std::vector<value_node*>& queue, value_node& node) {
    node.place = static_cast<std::uint32_t>(queue.size());
    node.queued = true;
    queue.push_back(&node);
}

void take_out(std::vector<value_node*>& list, const value_node& node) noexcept {
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
    enqueue(desk->views, view);
}

bool is_view(const value_node& node) noexcept {
    return node.ops->is_watched == nullptr;
}

void collect(value_graph& graph, value_node& node) {
    if (node.queued || node.asleep) {
        return;
    }
    if (is_view(node) && static_cast<view_node&>(node).through != nullptr) {
        enqueue_in_outbox(static_cast<view_node&>(node));
    } else {
        enqueue(graph.queue, node);
    }
}

// Marks what reads `from`, directly or not.
void mark_readers(value_graph& graph, value_node& from) {
    value_node* next = nullptr;
    for (value_node* node = &from; node != nullptr;) {
        for (dependency* d = node->readers; d != nullptr; d = d->next_reader) {
            value_node& reader = *d->reader;
            if (reader.stale) {
                continue;
            }
            reader.stale = true;
            if (is_view(reader)) {
                collect(graph, reader);
                continue;
            }
            if (reader.ops->is_watched(reader)) {
                collect(graph, reader);
            }
            if (reader.readers != nullptr) {
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
value_node* next_stale_source(value_node& node, bool& must_run) noexcept {
    must_run = node.runs == 0;
    for (dependency* d = node.walk; d != nullptr && !must_run; d = d->next_source) {
        value_node& source = *d->source;
        if (source.running || (source.stale && source.climbing)) {
            must_run = true; // perhaps it does not read that any more; if it does, that is a circle
        } else if (source.stale) {
            node.walk = d;
            return &source;
        } else if (source.version != d->seen) {
            node.because = &source;
            must_run = true;
        }
    }
    return nullptr;
}

void start_climbing(value_node& node, value_node* for_whom) noexcept {
    node.up = for_whom;
    node.walk = node.sources;
    node.climbing = true;
}

void run(value_node& node) {
    node.stale = false;
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
    drop_unread(node);
    if (node.noted && node.noted_place < graph.changed.size()) {
        graph.changed[node.noted_place] = nullptr;
    }
    if (node.queued) {
        take_out(graph.queue, node);
        for (std::vector<value_node*>* list : graph.in_flight) {
            take_out(*list, node);
        }
    }
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

void note_other_read(value_node& reader, value_node& source) {
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
        dependency& made = take_dependency(*this_values.graph);
        made.source = &source;
        made.reader = &reader;
        made.next_source = expected;
        made.next_reader = nullptr;
        made.back_to_reader = source.readers_end;
        *source.readers_end = &made;
        source.readers_end = &made.next_reader;
        *reader.cursor = &made;
    }
    (*reader.cursor)->seen = source.version;
    reader.cursor = &(*reader.cursor)->next_source;
}

void refresh(value_node& top) {
    start_climbing(top, nullptr);
    for (value_node* node = &top; node != nullptr;) {
        bool must_run = false;
        if (node->stale) {
            if (value_node* const source = next_stale_source(*node, must_run); source != nullptr) {
                start_climbing(*source, node);
                node = source;
                continue;
            }
        }
        value_node* const up = node->up;
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
    const value_node* const reader = this_values.reader;
    if (reader == nullptr || is_view(*reader)) {
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
    state.version = ++graph.newest_version;
    if (this_values.together != 0 || state.ops->is_watched(state)) {
        note_changed(state);
    }
    if (state.readers != nullptr) {
        mark_readers(graph, state);
    }
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

bool is_before(const value_node* a, const value_node* b) noexcept {
    return a != nullptr && (b == nullptr || static_cast<std::int32_t>(a->born - b->born) < 0);
}

void look_at_one(frame& f, value_node& node, first_failure& failed) {
    view_node* const view = is_view(node) ? static_cast<view_node*>(&node) : nullptr;
    slot* const self = view != nullptr ? view->self : nullptr; // stays while the frame is there
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        if (node.stale) {
            refresh(node);
        }
        if (view == nullptr) {
            node.ops->announce(node);
        }
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        if (self != nullptr) {
            note_failure(f, *self);
        } else {
            failed.run([] { throw; });
        }
    }
#endif
}

// Views and watched formulas, in the order in which they were made.
void look_at(std::vector<value_node*>& collected, first_failure& failed) {
    value_graph& graph = *this_values.graph;
    std::vector<value_node*> list;
    if (!graph.spare.empty()) {
        list = std::move(graph.spare.back());
        graph.spare.pop_back();
    }
    list.swap(collected);
    if (!std::is_sorted(list.begin(), list.end(), is_before)) {
        std::sort(list.begin(), list.end(), is_before);
        for (std::size_t i = 0; i < list.size() && list[i] != nullptr; ++i) {
            list[i]->place = static_cast<std::uint32_t>(i);
        }
    }
    graph.in_flight.push_back(&list);
    failed.run([&] {
        walk_in_frame(views_core(), std::source_location{}, [&](frame& f) {
            for (std::size_t i = 0; i < list.size(); ++i) {
                if (value_node* const node = list[i]; node != nullptr) {
                    node->queued = false;
                    if (!node->asleep) {
                        look_at_one(f, *node, failed);
                    }
                }
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
            if (value_node* const node = graph.changed[i]; node != nullptr && (node->runs != 0) == formulas) {
                if (node->stale) {
                    refresh(*node);
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
            if (node->runs == 0) { // formulas are announced with the views
                failed.run([&] { node->ops->announce(*node); });
            }
        }
    }
    graph.changed.clear();
}

[[gnu::cold]] void report_restless(value_graph& graph) {
    std::string names;
    for (std::vector<value_node*>* list : {&graph.changed, &graph.queue}) {
        for (value_node* node : *list) {
            if (node != nullptr) {
                names += (names.empty() ? "" : ", ") + node->ops->describe(*node);
                node->queued = false;
                node->noted = false;
            }
        }
        list->clear();
    }
    raise(fault_code::never_settles, severity::notice,
          "after " + std::to_string(most_waves) + " waves of changes there are still more: " + names +
              "; look for views or handlers that change what makes them run",
          std::source_location{});
}

} // namespace

void settle() {
    value_graph* const graph = this_values.graph;
    if (graph->settling || this_values.together != 0 || (graph->changed.empty() && graph->queue.empty())) {
        return;
    }
    first_failure failed;
    {
        const looking_away nothing_is_read;
        const graph_kept kept(*graph);
        graph->settling = true;
        for (int wave = 0; !graph->changed.empty() || !graph->queue.empty(); ++wave) {
            if (wave == most_waves) {
                report_restless(*graph);
                break;
            }
            compare_changed(*graph);
            announce_changed(*graph, failed);
            look_at(graph->queue, failed);
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

std::uint64_t next_version() noexcept {
    return ++this_values.graph->newest_version;
}

void report_circle(const value_node& formula) {
    std::string way;
    for (const value_node* node = this_values.reader; node != nullptr && node != &formula; node = node->outer) {
        way.insert(0, " -> " + node->ops->describe(*node));
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

void run_collected(std::vector<value_node*>& views) {
    if (this_values.graph == nullptr) {
        return; // all of them are gone
    }
    first_failure failed;
    {
        const looking_away nothing_is_read;
        const graph_kept kept(*this_values.graph);
        look_at(views, failed);
    }
    failed.rethrow();
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
    view.listed = this_values.graph->views.size();
    this_values.graph->views.push_back(&view);
    if (view.through != nullptr) {
        retain(*view.through);
        if (errand_desk* const desk = desk_of(*view.through); desk != nullptr && !desk->runs_views) {
            desk->runs_views = true;
            desk->run_views = desk->enroll(
                [](void* who) {
                    run_collected(static_cast<errand_desk*>(who)->views);
                },
                desk);
        }
    }
    view.stale = true;
    view.asleep = self.blocked != 0;
}

void begin_view(slot* made) {
    if (made == nullptr) {
        return;
    }
    view_node& view = *static_cast<view_node*>(state_of(*made));
    if (view.asleep) {
        return;
    }
    const looking_away nothing_is_read;
    const graph_kept kept(*this_values.graph);
    walk_in_frame(views_core(), view.self->where, [&](frame& f) -> std::size_t {
        slot& self = *view.self;
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
}

void tell_view(slot& s) noexcept {
    view_node& view = *static_cast<view_node*>(state_of(s));
    view.asleep = s.blocked != 0;
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
        view_report one{self.where, self.owner != nullptr ? self.owner->name : std::string{}, view->runs, {}, {}, (self.blocked & ~detail::block_ended) != 0};
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
