// SPDX-License-Identifier: MIT
// Several payloads published together.
#include "delivery/in_flight.hpp"
#include "delivery/subscriptions.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/batch.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/delivery/publish.hpp>

#include <algorithm>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::uint32_t depth_of_next() noexcept {
    const flight* const outer = innermost();
    return outer != nullptr ? outer->depth() + 1 : 0;
}

/// Payloads side by side, without their type.
struct payloads {
    const std::byte* first;
    std::size_t count;
    std::size_t stride;
    std::size_t payload_at = 0; ///< how far behind what a span is made of its payload lies
    handler_trait takers = handler_takes_span;

    [[nodiscard]] const void* at(std::size_t i) const noexcept { return first + i * stride; }
    [[nodiscard]] const void* item(std::size_t i) const noexcept { return first + i * stride - payload_at; }
    [[nodiscard]] batch to_serve(channel_core& core) const noexcept {
        return {first, stride, takers, nullptr, 0, 0, depth_of_next(), core.batches};
    }
};

void begin_payload(batch& under_way, const void* payload) noexcept {
    under_way.now = static_cast<const std::byte*>(payload);
    under_way.settled = under_way.waiting;
}

// Serves payloads from `i` on, in one frame, for as long as nothing is out of
// the ordinary; returns with that one served.
receipt serve_plainly(channel_core& core, const payloads& all, std::size_t& i, std::size_t& served, batch* under_way) {
    flight& f = this_thread.outermost;
    f.begin(core);
    const std::byte* payload = all.first + i * all.stride;
    const std::byte* const past = all.first + all.count * all.stride;
    std::size_t sum = 0;
    do {
        if (under_way != nullptr) {
            begin_payload(*under_way, payload);
        }
        const entry* const at = serve_entries<false>(f, core.base.entries, core.base.past, payload, plain_turns{});
        payload += all.stride;
        if (!f.is_usual()) [[unlikely]] {
            i = static_cast<std::size_t>(payload - all.first) / all.stride;
            served += sum;
            return finish_plain(at);
        }
        sum += f.index_of(at);
    } while (payload != past && core.work == work_entries);
    f.end();
    i = static_cast<std::size_t>(payload - all.first) / all.stride;
    served += sum;
    return {};
}

/// What becomes of a batch as a whole.
struct outcome {
    std::size_t served = 0;
    std::uint32_t flags = 0;
    first_failure failed;
};

// For ledgers: that the next walk is one of a batch, in which those that take spans have no turn.
class batch_walk {
public:
    batch_walk(channel_core& core, bool is_one) noexcept : core_(core), counts_(is_one && is_noted(core)) {
        core_.batch_walks += counts_ ? 1U : 0U;
    }
    batch_walk(const batch_walk&) = delete;
    batch_walk& operator=(const batch_walk&) = delete;
    ~batch_walk() {
        if (counts_ && core_.walks == before_) { // there was no memory to note it
            --core_.batch_walks;
        }
    }

private:
    channel_core& core_;
    bool counts_;
    std::uint64_t before_ = core_.walks;
};

receipt deliver_marked(channel_core& core, const void* payload, const post_mark& mark, std::source_location where,
                       const publish_note& note) {
    const caused_by now(origin_of(mark));
    return deliver_as(core, payload, mark.is_set ? mark.where : where, note);
}

// One payload after the other, for handlers that take one.
void serve_each(channel_core& core, const payloads& all, std::source_location where, const post_mark* marks,
                const publish_note& note, batch* under_way, outcome& sum) {
    for (std::size_t i = 0; i < all.count && (sum.flags & receipt_closed) == 0;) {
        bool counted = false;
        sum.failed.run([&] {
            if (core.work == work_entries && innermost() == nullptr && marks == nullptr) {
                const receipt last = serve_plainly(core, all, i, sum.served, under_way);
                sum.served += last.served();
                sum.flags |= receipts::flags_of(last);
                counted = true;
                return;
            }
            if (core.work == 0) { // nobody is there, and nothing runs that could change that
                i = all.count;
                return;
            }
            if (under_way != nullptr) {
                begin_payload(*under_way, all.at(i));
            }
            const std::size_t at = i++;
            const batch_walk walk(core, under_way != nullptr);
            const receipt one = marks != nullptr ? deliver_marked(core, all.at(at), marks[at], where, note)
                                                 : deliver_as(core, all.at(at), where, note);
            sum.served += one.served();
            sum.flags |= receipts::flags_of(one);
            counted = true;
        });
        if (!counted && under_way != nullptr) {
            under_way->waiting = under_way->settled; // as nobody served with that one counts
        }
        if (core.closed) {
            sum.flags |= receipt_closed;
        }
    }
}

// Whether `m` kept its payload from the handler in `s`.
bool left_out(const stop_mark& m, const slot& s) noexcept {
    const stage place = s.list->place;
    return place != m.place ? m.place < place : !m.whole_stage && born_since(s, m.born);
}

void miss_some(slot& s, turn why, std::size_t count) noexcept {
    if (count != 0 && (s.blocked & block_ended) == 0 && is_noted(*s.list->core)) {
        looks_on().missed_span(s, why, count);
    }
}

// Calls a handler with payloads `from` to `to`, unless it has ended or was paused.
void call_span(flight& f, slot& s, const payloads& all, std::size_t from, std::size_t to, std::size_t& served) {
    if (s.blocked != 0 || !f.goes_on()) {
        miss_some(s, turn::paused, to - from);
        return;
    }
    if (from == to) {
        return;
    }
    if ((s.shape & shape_guarded) != 0) {
        slot_guard& guard = static_cast<full_slot&>(s).guard;
        if (guard.times_left != 0 && --guard.times_left == 0) {
            detach(s);
        }
    }
    served += to - from;
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        if (is_noted(*s.list->core)) {
            looks_on().serve_span(s, all.item(from), to - from);
        } else {
            s.ops->invoke_span(state_of(s), all.item(from), to - from);
        }
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        note_failure(f, s);
    }
#endif
}

turn state_of_guard(flight& f, slot& s, const void* payload) {
    if ((s.shape & shape_guarded) == 0) {
        return turn::served;
    }
    const condition_fn& condition = static_cast<full_slot&>(s).guard.condition;
#if WIRED_COURIER_EXCEPTIONS
    try {
        return condition ? condition(payload) : turn::served;
    } catch (...) {
        note_failure(f, s);
        return turn::failed;
    }
#else
    static_cast<void>(f);
    return condition ? condition(payload) : turn::served;
#endif
}

// One handler, in as few pieces as stops and its condition allow. The batch's
// marks are `mark` to `past_mark`; by number, since a handler may begin a batch
// of its own, which adds to them for a while.
void serve_span(flight& f, slot& s, const payloads& all, std::size_t mark, std::size_t past_mark, std::size_t& served) {
    if (mark == past_mark && (s.shape & shape_guarded) == 0) {
        call_span(f, s, all, 0, all.count, served);
        return;
    }
    const std::vector<stop_mark>& marks = f.channel().stop_marks;
    std::size_t from = 0;
    for (std::size_t i = 0; i < all.count && s.blocked == 0; ++i) {
        bool stopped = false;
        if (mark != past_mark && marks[mark].payload == i) { // one at most for each payload
            stopped = left_out(marks[mark++], s);
        }
        const turn state = stopped ? turn::stopped : state_of_guard(f, s, all.at(i));
        if (state != turn::served) {
            call_span(f, s, all, from, i, served);
            miss_some(s, state, 1);
            from = i + 1;
        }
    }
    call_span(f, s, all, from, all.count, served);
}

// Those that take spans, of whoever was subscribed when the batch began.
void serve_spans(channel_core& core, const payloads& all, std::source_location where, std::uint32_t begun,
                 std::size_t marks, outcome& sum) {
    std::size_t served = 0;
    sum.failed.run([&] {
        const receipt r = deliver_in_flight(core, where, [&](flight& f) {
            const std::size_t past_mark = core.stop_marks.size();
            for (stage_list* list = core.lists; list != nullptr && f.goes_on(); list = list->next) {
                for (std::uint32_t i = 0; i < list->size && f.goes_on(); ++i) {
                    if (!is_gone(list->entries[i]) && (list->slots[i]->ops->traits & all.takers) != 0 &&
                        !born_since(*list->slots[i], begun)) {
                        serve_span(f, *list->slots[i], all, marks, past_mark, served);
                    }
                }
            }
            return std::size_t{0};
        });
        sum.flags |= receipts::flags_of(r);
    });
    sum.served += served;
}

} // namespace

bool waits_for_batch(const slot& s, const void* payload) noexcept {
    const channel_core& core = *s.list->core;
    for (batch* b = core.batches; b != nullptr; b = b->outer) {
        if (payload == b->now && innermost()->depth() == b->depth && (s.ops->traits & b->served_late) != 0) {
            ++b->waiting;
            return true;
        }
    }
    return false;
}

void note_stop(const flight& f) {
    channel_core& core = f.channel();
    const batch& b = *core.batches;
    if (f.depth() == b.depth) {
        const slot& s = f.ruled_by();
        core.stop_marks.push_back({static_cast<std::size_t>(b.now - b.first) / b.stride, s.list->place,
                                   static_cast<std::uint32_t>(s.born), !f.is_stopped()});
    }
}

receipt publish_all(channel_core& core, const void* first, std::size_t count, std::size_t stride,
                    std::source_location where, const post_mark* marks, const publish_note& note) {
    if (checked_build) {
        check_use(core, "delivered to", where);
    }
    const payloads all{.first = static_cast<const std::byte*>(first), .count = count, .stride = stride};
    outcome sum;
    const held until_then(core); // a handler may end it
    if (core.spans == 0) {
        serve_each(core, all, where, marks, note, nullptr, sum);
    } else {
        const std::uint32_t begun = core.next_born;
        const std::size_t stops = core.stop_marks.size();
        const bool one_by_one = core.spans != core.live || is_noted(core);
        if (one_by_one) {
            batch under_way = all.to_serve(core);
            core.batches = &under_way;
            serve_each(core, all, where, marks, note, &under_way, sum);
            core.batches = under_way.outer;
            sum.served -= under_way.waiting;
        }
        if (!core.closed && count != 0) {
            if (!one_by_one && (core.work & work_keeps) != 0) { // else that is done
                keep_payload(core, all.at(count - 1));
            }
            serve_spans(core, all, where, begun, stops, sum);
        }
        core.stop_marks.erase(core.stop_marks.begin() + static_cast<std::ptrdiff_t>(stops), core.stop_marks.end());
    }
    sum.failed.rethrow();
    return receipts::made(static_cast<std::uint32_t>(sum.served), sum.flags);
}

void deliver_posts(channel_core& core, const posts& of, std::source_location where,
                   void (*deliver_one)(void* whose, std::size_t i), void* whose) {
    const payloads all{of.first + of.payload_at, of.count, of.stride, of.payload_at, handler_takes_posts};
    outcome sum;
    const held until_then(core); // a handler may end it
    const std::uint32_t begun = core.next_born;
    const std::size_t stops = core.stop_marks.size();
    if (core.posts != core.live || (core.work & (work_noted | work_keeps)) != 0) {
        batch under_way = all.to_serve(core);
        core.batches = &under_way;
        for (std::size_t i = 0; i < all.count && !core.closed; ++i) {
            begin_payload(under_way, all.at(i));
            sum.failed.run([&] { deliver_one(whose, i); });
        }
        core.batches = under_way.outer;
    } else {
        core.book->note_vacant(where, all.count); // nobody listens at an address
    }
    if (!core.closed) {
        serve_spans(core, all, where, begun, stops, sum);
    }
    core.stop_marks.erase(core.stop_marks.begin() + static_cast<std::ptrdiff_t>(stops), core.stop_marks.end());
    sum.failed.rethrow();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
