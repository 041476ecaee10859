// SPDX-License-Identifier: MIT
#include <courier/sequence.hpp>

#include "delivery/anchors.hpp"

#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/last_reports.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Plain, so that it can be used while a thread ends.
struct sequence_thread {
    sequence_core* outermost = nullptr; ///< all that subscribers own
    sequence_core* due = nullptr;       ///< that wait for not being paused
    anchor_channel anchors;             ///< what those hang on
};
thread_local constinit sequence_thread this_sequences;

template <sequence_core* sequence_core::*Next, sequence_core** sequence_core::*Back>
struct list {
    static void add(sequence_core& core, sequence_core*& first) noexcept {
        core.*Next = first;
        core.*Back = &first;
        if (first != nullptr) {
            first->*Back = &(core.*Next);
        }
        first = &core;
    }
    static void remove(sequence_core& core) noexcept {
        if (core.*Back != nullptr) {
            *(core.*Back) = core.*Next;
            if (core.*Next != nullptr) {
                (core.*Next)->*Back = core.*Back;
            }
            core.*Back = nullptr;
        }
    }
};
using outermost_list = list<&sequence_core::next, &sequence_core::back>;
using due_list = list<&sequence_core::next_due, &sequence_core::back_due>;

// What its frame holds may publish when it is destroyed, and call for the end of it once more.
void give_up(sequence_core& core) noexcept {
    core.ended = true;
    ++core.below;
    core.handle.destroy();
}

/// Of one that has an anchor.
sequence_report report_of(const sequence_core& core) {
    const slot& anchor = *core.anchor;
    sequence_report made{anchor.where, anchor.owner != nullptr ? anchor.owner->name : std::string{}, core.waiting_at,
                         core.waiting != nullptr ? core.waiting->describe() : std::string{}, core.is_paused()};
    if (core.waiting != nullptr) {
        made.source_gone = core.waiting->is_source_gone();
        if (const channel_core* const awaited = core.waiting->awaited(); awaited != nullptr) {
            made.channel = awaited->name;
        }
    }
    made.since_frame = core.waiting_since;
    return made;
}

/// Its owner ends it while it waits.
void keep_report(const sequence_core& core) noexcept {
    if_memory_allows([&] {
        sequence_report last = report_of(core);
        last.ended_frame = this_oversight.frame;
        std::string key = place(last.started_at);
        key.append(" ").append(place(last.waits_at)).append(last.source_gone ? " gone" : "");
        this_oversight.last->keep(key, std::move(last));
    });
}

void end_outermost(sequence_core& core) noexcept {
    if (overseen() && core.waiting != nullptr) [[unlikely]] {
        keep_report(core);
    }
    core.anchor = nullptr;
    core.end();
    this_sequences.anchors.leave();
}

void tell_outermost(sequence_core& core, bool blocked) noexcept {
    core.paused = blocked;
    if (!blocked && this_sequences.due != nullptr) {
        carry_out_held_back();
    }
}

constexpr handler_ops sequence_anchor = anchor_ops_of<sequence_core, &end_outermost, &tell_outermost>();

} // namespace

sequence_core::~sequence_core() {
    outermost_list::remove(*this);
    due_list::remove(*this);
}

namespace {

// Only code that the compiler got wrong comes here.
void report_lost(const sequence_core& lost) {
    const slot* const started = lost.root->anchor;
    raise(fault_code::sequence_lost, severity::misuse,
          std::string("a sequence")
              .append(started != nullptr && started->owner != nullptr ? " of '" + started->owner->name + "'" : "")
              .append(" came back without waiting and without being over; g++ 12 makes such code of a co_await in the "
                      "condition of an if, while or switch in a body that declares no variable"),
          "give its result a name first: if (const auto r = co_await ...)",
          started != nullptr ? started->where : std::source_location{});
}

} // namespace

void sequence_core::resume() {
    for (sequence_core* c = above; c != nullptr; c = c->above) {
        ++c->below;
    }
    {
        const looking_away nothing_is_read;
        running = true;
        handle.resume();
        running = false;
    }
    if (WIRED_COURIER_CHECKED != 0 && waiting == nullptr && !finished && !ended) [[unlikely]] {
        report_lost(*this);
    }
    sequence_core* const up = above;
    if (ended) [[unlikely]] {
        give_up(*this);
    } else if (finished) [[unlikely]] {
        if (up != nullptr) {
            if (waiter* const told = std::exchange(to_tell, nullptr); told != nullptr) {
                told->done(*told); // which only makes it due, since it is held
            }
        } else if (anchor != nullptr) {
            const std::exception_ptr thrown = std::move(failed);
            detach(*anchor); // destroys this
#if WIRED_COURIER_EXCEPTIONS
            if (thrown) {
                std::rethrow_exception(thrown);
            }
#endif
            return;
        }
    }
    if (up != nullptr) {
        wake_those_above(up);
    }
}

// Those further up are held until it is their turn, whatever happens here.
void sequence_core::wake_those_above(sequence_core* first) {
    for (sequence_core* c = first; c != nullptr;) {
        sequence_core* const further = c->above;
        --c->below;
        if (c->below == 0 && !c->running) {
            if (c->ended) {
                give_up(*c);
            } else if (c->due && !c->is_paused()) {
                c->due = false;
                due_list::remove(*c);
                const caused_by by(c->due_by);
                c->resume();
            }
        }
        c = further;
    }
}

bool held_sequence::let_go() {
    sequence_core* const of = std::exchange(of_, nullptr);
    const bool goes_on = !of->is_ended() && !of->due;
    sequence_core::wake_those_above(of);
    return goes_on;
}

held_sequence::~held_sequence() {
    if (of_ != nullptr) {
        at_the_end("sequences", [this] { static_cast<void>(let_go()); });
    }
}

void sequence_core::wake_later() {
    if (!due && !is_ended()) {
        due = true;
        due_by = origin_here();
        if (waiting != nullptr) {
            waiting->keep();
        }
        due_list::add(*this, this_sequences.due);
        this_hold.sequences = &go_on_sequences;
    }
}

void go_on_sequences() {
    for (sequence_core* c = this_sequences.due; c != nullptr && this_hold.holds == 0;) {
        if (c->may_go_on()) {
            c->due = false;
            due_list::remove(*c);
            const caused_by by(c->due_by);
            c->resume();
            c = this_sequences.due; // whatever it did, start afresh
        } else {
            c = c->next_due;
        }
    }
}

slot* anchor_sequence(sequence_core& core, std::source_location where, party* owner) {
    unless_done given_up([&core] { give_up(core); });
    slot* const made = this_sequences.anchors.hang("sequences", sequence_anchor, &core, where, owner);
    if (made == nullptr) {
        return nullptr;
    }
    given_up.done();
    core.anchor = made;
    core.paused = made->blocked != 0;
    outermost_list::add(core, this_sequences.outermost);
    return made;
}

void begin_sequence(slot* anchor) {
    if (anchor != nullptr) {
        held_by<sequence_core>(*anchor)->wake();
    }
}

void sequence_core::end() noexcept {
    ended = true;
    if (!running && below == 0) {
        give_up(*this);
    }
}

bool sequence_core::is_ended() const noexcept {
    for (const sequence_core* c = this; c != nullptr; c = c->above) {
        if (c->ended) {
            return true;
        }
    }
    return false;
}

} // namespace detail

std::vector<sequence_report> list_sequences() {
    std::vector<sequence_report> all;
    for (const detail::sequence_core* core = detail::this_sequences.outermost; core != nullptr; core = core->next) {
        if (core->anchor != nullptr) { // else it is just ending
            all.push_back(detail::report_of(*core));
        }
    }
    std::reverse(all.begin(), all.end());
    return all;
}

WIRED_COURIER_NAMESPACE_END
