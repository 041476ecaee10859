// Delivering on channels that a ledger is attached to.
#include "noted.hpp"

#include "in_flight.hpp"
#include "ledger_pages.hpp"
#include "subscriptions.hpp"

#include <algorithm>
#include <chrono>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit thread_oversight this_oversight;
#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit post_mark newest_change;

namespace {

constexpr std::uint64_t slow = 1000; // ns; whoever takes longer is timed each time

void note_in_frame(const ledger_core& ledger, account& books, code_site& site) noexcept {
    channel_books& sums = books.sums;
    if (books.frame != ledger.frame) {
        if (sums.frames++ == 0) {
            sums.first_frame = ledger.frame;
        }
        books.frame = ledger.frame;
        sums.last_frame = ledger.frame;
        books.in_frame = 0;
    }
    sums.most_in_frame = std::max(sums.most_in_frame, ++books.in_frame);
    if (site.last_frame != ledger.frame || site.frames == 0) {
        if (site.frames++ == 0) {
            site.first_frame = ledger.frame;
        }
        site.last_frame = ledger.frame;
    }
    ++site.count;
}

std::uint32_t site_of(const slot& s) noexcept {
    const subscription_note* const note = note_of(s);
    return note != nullptr ? note->site : UINT32_MAX;
}

} // namespace

std::uint64_t clock_now() noexcept {
    return static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::steady_clock::now().time_since_epoch())
            .count());
}

origin origin_here() noexcept {
    const noted_publish* const now = this_oversight.now;
    if (now != nullptr && now->id() == this_oversight.cause && now->serving != nullptr) {
        const subscription_note* const note = note_of(*now->serving);
        return {this_oversight.cause, note != nullptr ? note->number : 0};
    }
    return {this_oversight.cause, this_oversight.handling};
}

noted_publish::noted_publish(channel_core& core, const void* payload, std::source_location where, bool is_retained)
    : outer(this_oversight.now), core_(core), ledger_(*core.books->ledger), account_(*core.books),
      before_{this_oversight.cause, this_oversight.handling}, is_retained_(is_retained), payload_(payload) {
    retain(ledger_);
    retain(core_);
    const std::string* const publisher = std::exchange(this_oversight.publisher, nullptr);
    site_ = publish_site(account_, where, publisher != nullptr ? std::string_view{*publisher} : std::string_view{});
    note_in_frame(ledger_, account_, ledger_.publish_sites[site_]);
    ++account_.sums.published;
    if (account_.has_slow || account_.until_timed-- == 0) {
        account_.until_timed = ledger_.time_one_in - 1;
        is_timed_ = true;
    }
    caused_ = origin_here();
    id_ = ++ledger_.newest_id;
    account_.newest_event = id_;
    remember(ledger_, id_, caused_, account_.number, site_, false);
    if (ledger_.shake != 0 && outer != nullptr && outer->id() == before_.cause) [[unlikely]] {
        outer->told_on(account_.number);
    }
    if (ledger_.sink != nullptr) [[unlikely]] {
        is_recorded_ = true;
        first_turn_ = ledger_.turns.size();
        to_ = this_oversight.to;
    }
    outside_ = std::exchange(this_oversight.outside, false); // what its handlers do is not
    this_oversight.to = {};
    this_oversight.cause = id_;
    this_oversight.now = this;
}

noted_publish::~noted_publish() {
    this_oversight.now = outer;
    this_oversight.outside = outside_;
    this_oversight.cause = before_.cause;
    this_oversight.handling = before_.handling;
    channel_books& sums = account_.sums;
    const std::uint32_t heard = served_ - std::min(served_, fell_);
    sums.deliveries += heard;
    code_site& site = ledger_.publish_sites[site_];
    if (heard == 0) {
        ++sums.unheard;
        ++site.unheard;
    }
    if (flags_ != 0) [[unlikely]] {
        sums.stopped += (flags_ & receipt_stopped) != 0 ? 1U : 0U;
        sums.refused += (flags_ & receipt_refused) != 0 ? 1U : 0U;
        sums.vacant += (flags_ & receipt_vacant) != 0 ? 1U : 0U;
        site.vacant += (flags_ & receipt_vacant) != 0 ? 1U : 0U;
    }
    if (is_timed_) {
        account_.has_slow = found_slow_;
    }
    if (is_recorded_) [[unlikely]] {
        record();
    }
    release(core_);
    release(ledger_);
}

void noted_publish::record() {
    if (ledger_.sink != nullptr) {
        event_facts facts;
        facts.id = id_;
        facts.cause = caused_.cause;
        facts.handling = caused_.handling;
        facts.on = &account_;
        facts.channel = account_.number;
        facts.site = site_;
        facts.kind = core_.kind;
        facts.payload = payload_;
        facts.to = to_;
        facts.outside = outside_;
        facts.retained = is_retained_;
        facts.turns = ledger_.turns.data() + first_turn_;
        facts.turn_count = ledger_.turns.size() - first_turn_;
        facts.flags = flags_;
        facts.stopped_by = stopped_by_;
        ledger_.sink->published(facts);
    }
    ledger_.turns.resize(first_turn_);
}

void noted_publish::missed(turn why) noexcept {
    why_ = why;
    fell_ += why == turn::filtered ? 1U : 0U;
    if (serving != nullptr) {
        if (subscription_note* const note = note_of(*serving); note != nullptr) {
            ++note->missed[why];
        }
    }
}

void noted_publish::serve(frame& f, slot& s, const entry& hot, const void* payload) {
    serving = &s;
    const subscription_note* const note = note_of(s);
    const std::uint32_t number = note != nullptr ? note->number : 0; // it may end meanwhile
    why_ = turn::served;
    const std::uint64_t begun = is_timed_ ? clock_now() : 0;
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        hot.run(hot.state, payload);
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        note_failure(f, s);
        missed(turn::failed);
    }
#else
    static_cast<void>(f);
#endif
    std::uint64_t took = 0;
    if (is_timed_ && why_ != turn::paused && why_ != turn::gate_closed && why_ != turn::condition) {
        took = clock_now() - begun;
        found_slow_ = found_slow_ || took >= slow;
        if (subscription_note* const still = note_of(s); still != nullptr) {
            if (still->times == nullptr) {
                still->times = std::make_unique<time_buckets>();
            }
            still->times->add(took);
        }
    }
    if (is_recorded_) {
        ledger_.turns.push_back({number, static_cast<std::uint32_t>(std::min<std::uint64_t>(took, UINT32_MAX)), why_});
    }
}

void noted_publish::ruled(frame& f) noexcept {
    const subscription_note* const by = note_of(*f.ruled_by);
    stopped_by_ = by != nullptr ? by->number : 0;
}

void noted_publish::told_on(std::uint32_t channel) {
    if (serving == nullptr) {
        return;
    }
    const std::uint32_t site = site_of(*serving);
    for (const told& t : told_) {
        if (t.channel == channel && t.by != serving && t.by->list == serving->list && t.site != UINT32_MAX &&
            site != UINT32_MAX) {
            note_order(ledger_, account_.number, t.site, site, order_matter::both_tell, channel);
        }
    }
    told_.push_back({channel, serving, site});
}

void note_filtered() noexcept {
    if (noted_publish* const now = this_oversight.now; now != nullptr && now->in == innermost()) {
        now->missed(turn::filtered);
    }
}

void note_skipped() noexcept {
    noted_publish* const now = this_oversight.now;
    const bool by_gate = std::exchange(this_oversight.gate_closed, false);
    if (now == nullptr || now->in != innermost() || now->serving == nullptr) {
        return;
    }
    if ((now->serving->blocked & (block_paused | block_owner_paused)) != 0) {
        now->missed(turn::paused);
    } else if ((now->serving->blocked & block_ended) == 0) {
        now->missed(by_gate ? turn::gate_closed : turn::condition);
    }
}

namespace {

// How many entries of `list` were there when the publish began.
std::uint32_t count_before(const stage_list& list, std::uint32_t born) noexcept {
    std::uint32_t count = list.size;
    while (count != 0 && (is_gone(list.entries[count - 1]) || born_since(*list.slots[count - 1], born))) {
        --count;
    }
    return count;
}

std::uint64_t next_random(std::uint64_t& state) noexcept { // splitmix64 (Steele, Lea and Flood, 2014)
    state += 0x9E3779B97F4A7C15U;
    std::uint64_t z = state;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9U;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBU;
    return z ^ (z >> 31);
}

// In an order that the seed and the event decide (Fisher and Yates' shuffle).
template <class T>
void shuffle(T* turns, std::size_t count, const noted_publish& now) {
    std::uint64_t state = now.ledger().shake ^ (now.id() * 0x9E3779B97F4A7C15U);
    for (std::size_t i = count; i > 1; --i) {
        std::swap(turns[i - 1], turns[next_random(state) % i]);
    }
}

// Those who did not get their turn since `by` stopped the publish.
void pass_over(noted_publish& now, const slot& by, slot& left) {
    if (subscription_note* const note = note_of(left); note != nullptr) {
        ++note->missed[turn::stopped];
        if (by.list == left.list) {
            const std::uint32_t first = site_of(by);
            if (first != UINT32_MAX && first != note->site) {
                note_order(now.ledger(), now.core().books != nullptr ? now.core().books->number : 0, first, note->site,
                           order_matter::stops);
            }
        }
    }
}

std::uint32_t walk_plainly(noted_publish& now, frame& f, stage_list& list, std::uint32_t count, const void* payload) {
    std::uint32_t i = 0;
    while (i < count && f.end != 0) {
#if WIRED_COURIER_EXCEPTIONS
        try {
#endif
            do {
                const entry hot = list.entries[i]; // the array may be outgrown meanwhile
                now.serving = list.slots[i];
                hot.run(hot.state, payload);
                ++i;
            } while (i < count && f.end != 0);
#if WIRED_COURIER_EXCEPTIONS
        } catch (...) {
            note_failure(f, *now.serving);
            now.missed(turn::failed);
            ++i;
        }
#endif
    }
    return i;
}

std::uint32_t walk_carefully(noted_publish& now, frame& f, stage_list& list, std::uint32_t count,
                             const std::uint32_t* turns, const void* payload) {
    std::uint32_t i = 0;
    for (; i < count && f.end != 0; ++i) {
        const std::uint32_t at = turns != nullptr ? turns[i] : i;
        const entry hot = list.entries[at];
        if (is_gone(hot)) {
            hot.run(hot.state, payload);
        } else {
            now.serve(f, *list.slots[at], hot, payload);
        }
    }
    return i;
}

std::size_t walk_list(noted_publish& now, frame& f, stage_list& list, std::uint32_t count, const void* payload) {
    const bool shaken = now.ledger().shake != 0;
    std::vector<std::uint32_t> turns;
    if (shaken) {
        turns.resize(count);
        for (std::uint32_t i = 0; i < count; ++i) {
            turns[i] = i;
        }
        shuffle(turns.data(), count, now);
    }
    std::uint32_t walked = 0;
    if (now.careful()) {
        walked = walk_carefully(now, f, list, count, shaken ? turns.data() : nullptr, payload);
    } else {
        walked = walk_plainly(now, f, list, count, payload);
    }
    if ((f.unusual & frame_stopped) != 0) {
        for (std::uint32_t i = walked; i < count; ++i) {
            const std::uint32_t at = shaken ? turns[i] : i;
            if (!is_gone(list.entries[at])) {
                pass_over(now, *f.ruled_by, *list.slots[at]);
            }
        }
    }
    return walked;
}

std::size_t walk_noted(noted_publish& now, frame& f, const void* payload) {
    channel_core& core = *f.core;
    now.in = &f;
    const std::uint32_t begun = core.next_born;
    ++core.walks;
    std::size_t walked = 0;
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        const std::uint32_t count = count_before(*list, begun);
        if ((f.unusual & frame_ruled) != 0) { // those of later stages
            for (std::uint32_t i = 0; i < count; ++i) {
                if (!is_gone(list->entries[i])) {
                    pass_over(now, *f.ruled_by, *list->slots[i]);
                }
            }
            continue;
        }
        if (count != 0) {
            walked += walk_list(now, f, *list, count, payload);
        }
        if ((f.unusual & frame_closed) != 0) {
            break;
        }
    }
    now.serving = nullptr;
    if ((f.unusual & frame_ruled) != 0) {
        now.ruled(f);
    }
    return walked;
}

[[nodiscard]] bool is_too_deep() noexcept {
    const frame* const outer = innermost();
    return outer != nullptr && outer->depth + 1 >= depth_limit();
}

} // namespace

receipt deliver_noted(channel_core& core, const void* payload, std::source_location where) {
    noted_publish now(core, payload, where);
    if (is_too_deep()) [[unlikely]] {
        return now.ended(refuse(core, where));
    }
    if ((core.work & work_compact) != 0 && innermost() == nullptr) {
        tidy(core);
    }
    if ((core.work & work_keeps) != 0) {
        core.kept->keep(payload);
    }
    return now.ended(walk_in_frame(core, where, [&](frame& f) { return walk_noted(now, f, payload); }));
}

receipt deliver_parts_noted(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                            std::source_location where, bool vacant) {
    noted_publish now(core, payload, where);
    if (now.ledger().shake != 0) {
        for (std::size_t from = 0, past = 0; from < parts.size(); from = past) {
            while (past < parts.size() && parts[past]->self->list == parts[from]->self->list) {
                ++past;
            }
            shuffle(parts.data() + from, past - from, now);
        }
    }
    const auto walk = [&](frame& f) {
        now.in = &f;
        std::size_t walked = 0;
        const stage_list* last = nullptr;
        for (address_part* part : parts) {
            slot& s = *part->self;
            if (f.end == 0 || ((f.unusual & frame_ruled) != 0 && s.list != last)) {
                if ((f.unusual & frame_ruled) == 0) {
                    break;
                }
                if (subscription_note* const note = note_of(s); note != nullptr) {
                    ++note->extra;
                    pass_over(now, *f.ruled_by, s);
                }
                continue;
            }
            last = s.list;
            ++walked;
            if (subscription_note* const note = note_of(s); note != nullptr) {
                ++note->extra;
            }
            now.serve(f, s, part->hot, payload);
        }
        now.serving = nullptr;
        if ((f.unusual & frame_ruled) != 0) {
            now.ruled(f);
        }
        return walked;
    };
    const receipt r = deliver_in_frame(core, where, walk);
    return now.ended(vacant ? r.marked(receipt_vacant) : r);
}

void deliver_to_one_noted(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                          std::source_location where) {
    deliver_in_frame(core, where, [&](frame& f) {
        std::size_t walked = 0;
        while (walked < count && f.end != 0 && (s.blocked & block_ended) == 0 && is_noted(core)) {
            const auto skipped = static_cast<std::uint32_t>(f.unusual);
            noted_publish now(core, payloads[walked], where, true);
            now.in = &f;
            if (subscription_note* const note = note_of(s); note != nullptr) {
                ++note->extra;
            }
            now.serve(f, s, s.list->entries[s.index], payloads[walked++]);
            now.serving = nullptr;
            now.ended({1 - (static_cast<std::uint32_t>(f.unusual) - skipped), 0, nullptr});
        }
        return walked;
    });
}

void note_span(slot& s, std::uint64_t took) noexcept {
    if (subscription_note* const note = note_of(s); note != nullptr) {
        if (note->times == nullptr) {
            note->times = std::make_unique<time_buckets>();
        }
        note->times->add(took);
    }
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
