// SPDX-License-Identifier: MIT
// Refreshers: functions that are run again when something that they read has changed.
#include "delivery/in_flight.hpp"
#include "values/value_graph.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/keep_current.hpp>

#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

channel_core& refreshers_core() {
    value_graph& graph = *this_values.graph;
    if (graph.refreshers_core == nullptr) {
        graph.refreshers_core = open_core("refreshers", &owned_kind);
    }
    return *graph.refreshers_core;
}

namespace {

// Runs refreshers that no change is to be settled for; what they change is settled
// when they have returned.
template <class Run>
void run_then_settle(Run run_them) {
    first_failure failed;
    {
        const looking_away nothing_is_read;
        const graph_kept until_then;
        const while_settling now;
        failed.run([&] { run_them(failed); });
    }
    failed.run([] { settle(); });
    failed.rethrow();
}

void run_collected(std::vector<reader_node*>& refreshers) {
    if (this_values.graph != nullptr) { // else all of them are gone
        run_then_settle([&](first_failure& failed) { this_values.graph->changes.look_at(refreshers, failed); });
    }
}

} // namespace

refresher_node::~refresher_node() {
    if (self == nullptr) {
        return; // it was never in
    }
    if (status.is(reader_status::queued) && through && through->errands != nullptr) {
        take_out(through->errands->refreshers, *this);
    }
    value_graph& graph = *this_values.graph;
    graph.refreshers[listed] = nullptr;
    if (++graph.ended_refreshers * 2 > graph.refreshers.size()) {
        std::erase(graph.refreshers, nullptr);
        graph.ended_refreshers = 0;
        for (std::size_t i = 0; i < graph.refreshers.size(); ++i) {
            graph.refreshers[i]->listed = i;
        }
    }
    leave_graph(*this);
}

namespace {

// So that queueing one more there needs no memory.
void make_room_in(errand_desk& desk) {
    reserve_by_halves(desk.refreshers, this_values.graph->changes.readers() + 1);
    if (!desk.runs_refreshers) {
        desk.run_refreshers =
            desk.enroll([](void* who) { run_collected(static_cast<errand_desk*>(who)->refreshers); }, &desk);
        desk.runs_refreshers = true;
    }
}

} // namespace

void enter_refresher(refresher_node& refresher, slot& self) {
    value_graph& graph = *this_values.graph;
    reserve_by_halves(graph.refreshers, graph.refreshers.size() + 1);
    if (refresher.through) {
        if (errand_desk* const desk = desk_of(*refresher.through); desk != nullptr) {
            make_room_in(*desk);
        }
    }
    enter_graph(refresher); // from here on nothing fails
    refresher.self = &self;
    if (refresher.through) {
        refresher.kind = reader_kind::paced_refresher;
    }
    refresher.listed = graph.refreshers.size();
    graph.refreshers.push_back(&refresher);
    refresher.status.add(reader_status::stale);
    refresher.status.set(reader_status::asleep, self.blocked != 0);
}

void begin_refresher(refresher_node& refresher) {
    if (refresher.status.is(reader_status::asleep)) {
        return;
    }
    run_then_settle([&](first_failure&) {
        walk_in_flight(refreshers_core(), refresher.self->where, [&]([[maybe_unused]] flight& f) -> std::size_t {
            [[maybe_unused]] slot& self = *refresher.self;
#if WIRED_COURIER_EXCEPTIONS
            try {
#endif
                refresh(refresher);
#if WIRED_COURIER_EXCEPTIONS
            } catch (...) {
                note_failure(f, self);
            }
#endif
            return 1;
        });
    });
}

void tell_refresher(refresher_node& refresher, bool blocked) noexcept {
    refresher.status.set(reader_status::asleep, blocked);
    if (refresher.status.is(reader_status::stale) &&
        !refresher.status.is(reader_status::asleep | reader_status::queued)) {
        this_values.graph->changes.collect(refresher);
        carry_out_held_back();
    }
}

} // namespace detail

std::vector<refresher_report> list_refreshers() {
    std::vector<refresher_report> all;
    if (detail::this_values.graph == nullptr) {
        return all;
    }
    for (const detail::refresher_node* refresher : detail::this_values.graph->refreshers) {
        if (refresher == nullptr || (refresher->self->blocked & detail::block_ended) != 0) {
            continue;
        }
        const detail::slot& self = *refresher->self;
        refresher_report one{.where = self.where, .runs = refresher->runs, .paused = self.blocked != 0};
        if (self.owner != nullptr) {
            one.subscriber = self.owner->name;
        }
        for (const detail::dependency* d = refresher->sources; d != nullptr; d = d->next_source) {
            one.depends_on.push_back(d->source->ops->describe(*d->source));
        }
        if (refresher->because != nullptr) {
            one.because = refresher->because->ops->describe(*refresher->because);
        }
        all.push_back(std::move(one));
    }
    return all;
}

subscription_key subscriber::begin(detail::refresher_node* refresher) {
    if (refresher == nullptr) {
        return {};
    }
    const subscription_key key{refresher->self}; // it may end in its first run
    detail::begin_refresher(*refresher);
    return key;
}

WIRED_COURIER_NAMESPACE_END
