// Views: functions that are run again when something that they read has changed.
#include "in_flight.hpp"
#include "value_graph.hpp"

#include <courier/detail/errands.hpp>
#include <courier/keep_current.hpp>

#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

channel_core& views_core() {
    value_graph& graph = *this_values.graph;
    if (graph.views_core == nullptr) {
        graph.views_core = open_core("views", nullptr);
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
    open_graph();
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
        if (view == nullptr || (view->self->blocked & detail::block_ended) != 0) {
            continue;
        }
        const detail::slot& self = *view->self;
        view_report one{.where = self.where, .runs = view->runs, .paused = self.blocked != 0};
        if (self.owner != nullptr) {
            one.subscriber = self.owner->name;
        }
        for (const detail::dependency* d = view->sources; d != nullptr; d = d->next_source) {
            one.depends_on.push_back(d->source->ops->describe(*d->source));
        }
        if (view->because != nullptr) {
            one.because = view->because->ops->describe(*view->because);
        }
        all.push_back(std::move(one));
    }
    return all;
}

} // namespace courier::inline WIRED_COURIER_ABI
