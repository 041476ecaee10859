// SPDX-License-Identifier: MIT
#include "values/scheduler.hpp"

#include "delivery/in_flight.hpp"
#include "values/value_graph.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <span>
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

void enqueue(std::vector<reader_node*>& queue, reader_node& node) {
    node.place = static_cast<std::uint32_t>(queue.size());
    node.status.add(reader_status::queued);
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
    enqueue(desk->refreshers, refresher);
}

void look_at_one(reader_node& node) {
    if (node.status.is(reader_status::stale)) {
        refresh(node);
    }
    if (node.kind == reader_kind::formula) {
        formula_node& formula = formula_of(node);
        formula.ops->announce(formula);
    }
}

// From `at` on, until one throws; that is noted, and the next place returned.
std::size_t look_at_some([[maybe_unused]] flight& f, std::span<reader_node* const> list, std::size_t at,
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
            node->status.drop(reader_status::queued);
            if (!node->status.is(reader_status::asleep)) {
                refresher = node->kind != reader_kind::formula ? static_cast<refresher_node*>(node) : nullptr;
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

// What is taken out meanwhile is null.
void look_at_all(std::span<reader_node* const> list, first_failure& failed) {
    failed.run([&] {
        walk_in_flight(refreshers_core(), std::source_location{}, [&](flight& f) {
            for (std::size_t at = 0; at < list.size();) {
                at = look_at_some(f, list, at, failed);
            }
            return list.size();
        });
    });
}

} // namespace

void scheduler::enter_reader() {
    reserve_by_halves(queue_, readers_ + 1);
    ++readers_;
}

void scheduler::make_room_for_change() {
    reserve_by_halves(changed_, changed_.size() + 2); // a key of a map, and the whole of it
}

void scheduler::note(source_node& changed) {
    if (changed.noted == source_node::not_noted) {
        changed_.push_back(&changed);
        note_waiting();
        changed.noted = static_cast<std::uint32_t>(changed_.size() - 1);
    }
}

bool scheduler::may_take_shortcut(const source_node& state) const noexcept {
    return shortcut_ == nullptr && queue_.empty() && state.other_readers == 0 && state.readers_in_order &&
           this_hold.holds == 0 && !is_settling();
}

void scheduler::change(source_node& state) {
    if (this_hold.holds != 0 || (state.told && state.ops->is_watched(state))) {
        note(state); // which takes memory; else nothing has changed
    }
    state.version = next_version();
    if (state.readers == nullptr || shortcut_ == &state) {
        return;
    }
    if (may_take_shortcut(state)) {
        shortcut_ = &state;
        note_waiting();
        return;
    }
    leave_shortcut();
    mark_readers(state);
}

void scheduler::leave_shortcut() {
    if (shortcut_ != nullptr) {
        mark_readers(*std::exchange(shortcut_, nullptr));
    }
}

void scheduler::collect(reader_node& stale) {
    if (stale.status.is(reader_status::queued | reader_status::asleep)) {
        return;
    }
    if (stale.kind == reader_kind::paced_refresher) {
        enqueue_in_outbox(static_cast<refresher_node&>(stale));
    } else {
        enqueue(queue_, stale);
        note_waiting();
    }
}

void scheduler::mark_readers(source_node& from) {
    formula_node* next = nullptr; // whose readers are to be marked; linked by `up`
    for (source_node* node = &from; node != nullptr;) {
        for (dependency *d = node->readers, *further = nullptr; d != nullptr; d = further) {
            further = d->next_reader;
            reader_node& reader = *d->reader;
            const bool was_fresh = reader.status.becomes_stale();
            if (reader.kind != reader_kind::formula) {
                collect(reader);
                continue;
            }
            formula_node& formula = formula_of(reader);
            if (formula.told && formula.ops->is_watched(formula)) {
                collect(formula);
            }
            if (was_fresh && formula.readers != nullptr) {
                formula.up = next;
                next = &formula;
            }
        }
        node = next;
        if (next != nullptr) {
            next = static_cast<formula_node*>(next->up);
        }
    }
}

// From where it is until one throws.
void scheduler::run_shortcut_in([[maybe_unused]] flight& f) {
    [[maybe_unused]] refresher_node* now = nullptr; // stays while the frame is there
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        while (dependency* const d = shortcut_next_) {
            reader_node& refresher = *d->reader;
            shortcut_next_ = d->next_reader;
            if (shortcut_next_ != nullptr) {
                __builtin_prefetch(shortcut_next_->reader);
                __builtin_prefetch(shortcut_next_->next_reader);
            }
            if (d->seen == d->source->version) {
                continue;
            }
            if (refresher.status.is(reader_status::asleep)) {
                refresher.status.add(reader_status::stale);
                continue;
            }
            now = static_cast<refresher_node*>(&refresher);
            refresher.because = d->source;
            refresher.status.drop(reader_status::stale);
            run(refresher);
        }
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        note_failure(f, *now->self);
    }
#endif
}

void scheduler::run_shortcut(first_failure& failed) {
    shortcut_next_ = std::exchange(shortcut_, nullptr)->readers;
    failed.run([&] {
        walk_in_flight(refreshers_core(), std::source_location{}, [&](flight& f) {
            while (shortcut_next_ != nullptr) {
                run_shortcut_in(f);
            }
            return std::size_t{1};
        });
    });
}

void scheduler::look_at(std::vector<reader_node*>& collected, first_failure& failed) {
    if (collected.size() == 1) { // which is in no list any more, so that none is needed
        reader_node* const only = collected.front();
        collected.clear();
        look_at_all({&only, 1}, failed);
        return;
    }
    std::vector<reader_node*> list;
    reserve_by_halves(in_flight_, in_flight_.size() + 1);
    if (!spare_.empty()) {
        list = std::move(spare_.back());
        spare_.pop_back();
    }
    reserve_by_halves(list, readers_); // all that takes memory comes first; it is collected in from now on
    list.swap(collected);
    put_in_order(list);
    in_flight_.push_back(&list);
    look_at_all(list, failed);
    in_flight_.pop_back();
    list.clear();
    if_memory_allows([&] { spare_.push_back(std::move(list)); });
}

// What was set back to its old value has not changed.
// A comparison that throws has found no two values the same.
void scheduler::compare_changed(first_failure& failed) {
    for (const bool formulas : {false, true}) { // those depend on states
        for (std::size_t i = 0; i < changed_.size(); ++i) {
            source_node* const node = changed_[i];
            if (node == nullptr || node->is_computed != formulas) {
                continue;
            }
            if (formulas && formula_of(*node).status.is(reader_status::stale)) {
                refresh(formula_of(*node));
            }
            if (changed_[i] == node) { // still
                failed.run([&] { node->ops->compare(*node); });
            }
        }
    }
}

void scheduler::announce_changed(first_failure& failed) {
    for (std::size_t i = 0; i < changed_.size(); ++i) { // their handlers may change more
        if (source_node* const node = std::exchange(changed_[i], nullptr); node != nullptr) {
            node->noted = source_node::not_noted;
            if (!node->is_computed) { // formulas are announced with the refreshers
                failed.run([&] { node->ops->announce(*node); });
            }
        }
    }
    changed_.clear();
}

void scheduler::report_restless() {
    leave_shortcut();
    std::string names;
    const auto name = [&](const std::string& one) { names += (names.empty() ? "" : ", ") + one; };
    for (source_node* node : changed_) {
        if (node != nullptr) {
            name(node->ops->describe(*node));
            node->noted = source_node::not_noted;
        }
    }
    for (reader_node* node : queue_) {
        if (node != nullptr) {
            name(node->does->describe(*node));
            node->status.drop(reader_status::queued);
        }
    }
    changed_.clear();
    queue_.clear();
    raise(fault_code::never_settles, severity::notice,
          "after " + std::to_string(most_waves) + " waves of changes there are still more: " + names,
          "look for refreshers or handlers that change a value they run for", std::source_location{});
}

void scheduler::settle(int waves) {
    if (is_settling() || this_hold.holds != 0) {
        return;
    }
    if (is_quiet()) { // what waited has ended
        this_values.work = 0;
        return;
    }
    first_failure failed;
    {
        const looking_away nothing_is_read;
        const graph_kept until_then;
        const while_settling now;
        for (int wave = waves; !is_quiet(); ++wave) {
            if (wave == most_waves) {
                report_restless();
                break;
            }
            if (!changed_.empty()) {
                compare_changed(failed);
                announce_changed(failed);
            }
            if (shortcut_ != nullptr) {
                run_shortcut(failed);
            } else {
                look_at(queue_, failed);
            }
        }
        this_values.work &= value_thread::settling; // nothing waits
    }
    failed.rethrow();
}

void scheduler::forget(source_node& node) noexcept {
    if (shortcut_ == &node) {
        shortcut_ = nullptr;
    }
    if (node.noted < changed_.size()) {
        changed_[node.noted] = nullptr;
    }
}

void scheduler::forget(reader_node& node) noexcept {
    if (node.status.is(reader_status::queued)) {
        take_out(queue_, node);
        for (std::vector<reader_node*>* list : in_flight_) {
            take_out(*list, node);
        }
    }
    --readers_;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
