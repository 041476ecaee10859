// SPDX-License-Identifier: MIT
// What is noted of one publish on a channel that a ledger is attached to.
#include "ledger/noted.hpp"
#include <courier/detail/base/in_use.hpp>

#include "delivery/walk.hpp"
#include "ledger/ledger_pages.hpp"

#include <algorithm>
#include <chrono>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::uint64_t slow = 1000; // ns; whoever takes longer is timed each time

// The first publish of a frame, or of a line of code in it.
void note_in_frame(const ledger_core& ledger, account& books, code_site& site) noexcept {
    channel_books& sums = books.sums;
    if (books.frame != ledger.frame) {
        if (sums.frames++ == 0) {
            sums.first_frame = ledger.frame;
        }
        sums.max_in_frame = max_in_frame(books);
        books.before_frame = sums.published;
        books.frame = ledger.frame;
        sums.last_frame = ledger.frame;
    }
    if (site.last_frame != ledger.frame || site.frames == 0) {
        if (site.frames++ == 0) {
            site.first_frame = ledger.frame;
        }
        site.last_frame = ledger.frame;
    }
}

} // namespace

namespace {

void add_time(subscription_note& note, std::uint64_t took) noexcept {
    if_memory_allows([&] {
        if (note.times == nullptr) {
            note.times = std::make_unique<handler_time_counts>();
        }
        note.times->add(took);
    });
}

} // namespace

std::uint64_t clock_now() noexcept {
    return static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::steady_clock::now().time_since_epoch())
            .count());
}

namespace {

// What happens now is caused by, when a publish is under way.
origin origin_in(const noted_now& now) noexcept {
    if (now.id() == this_oversight.cause && &now.ledger() == this_oversight.ledger) {
        if (now.ended != nullptr && now.called() == now.ended) {
            return of_this_ledger(this_oversight.cause, now.ended_number);
        }
        const slot* const serving = now.serving();
        const subscription_note* const note = serving != nullptr ? note_of(*serving) : nullptr;
        return of_this_ledger(this_oversight.cause, note != nullptr ? note->number : 0);
    }
    return of_this_ledger(this_oversight.cause, this_oversight.handling);
}

// Of what a timed call or a refresher publishes, unless a handler asked for that.
std::string_view acting_publisher() noexcept {
    const bool acts = this_oversight.acting != nullptr && this_oversight.acting_in == this_oversight.now;
    return acts && this_oversight.handling == 0 ? std::string_view{this_oversight.acting->name} : std::string_view{};
}

} // namespace

origin noted_origin() noexcept {
    const noted_now* const now = this_oversight.now;
    return now != nullptr ? origin_in(*now) : of_this_ledger(this_oversight.cause, this_oversight.handling);
}

slot* noted_now::serving() const noexcept {
    return at != nullptr && is_gone(*at) ? nullptr : called();
}

slot* noted_now::called() const noexcept {
    if (at == nullptr) {
        return turn_of;
    }
    return list->slots[in->index_of(at)];
}

noted_publish::noted_publish(channel_core& core, const void* payload, std::source_location where,
                             const publish_note& note, bool is_retained)
    : noted_now(*core.books->ledger, this_oversight.now, nullptr), account_(*core.books),
      before_(of_this_ledger(this_oversight.cause, this_oversight.handling)), is_retained_(is_retained) {
    begin(core);
    is_full_ = true;
    const std::string_view publisher =
        note.publisher != nullptr ? std::string_view{*note.publisher} : acting_publisher();
    site_ = publish_site(account_, where, publisher);
    note_in_frame(*ledger_, account_, *account_.site);
    ++account_.site->count;
    ++account_.sums.published;
    caused_ = outer != nullptr ? origin_in(*outer) : before_;
    account_.newest_event = id_;
    remember(*ledger_, id_, caused_, account_.number, site_, false);
    if (account_.has_slow || account_.until_timed-- == 0) [[unlikely]] {
        account_.until_timed = ledger_->time_every - 1;
        is_timed_ = ledger_->time_every != 0;
    }
    const void* const key = publisher.empty() ? key_of(where) : nullptr;
    account_.site_key = key != nullptr ? key : &account_;
    this_oversight.now = this; // from here on the end of the ledger leaves this a reference
    if (!ledger_->takers.empty() || ledger_->order_seed != 0) [[unlikely]] {
        look_closer(core, payload, note.to);
    } else {
        account_.plain_in = ledger_->epoch;
    }
    this_oversight.unusual.outside = false; // what its handlers do is not
    this_oversight.cause = id_;
}

void noted_publish::look_closer(const channel_core& core, const void* payload, const address_label& to) {
    if (ledger_->order_seed != 0 && outer != nullptr && outer->id() == before_.cause) {
        outer->told_on(account_.number);
    }
    if (ledger_->takers.empty()) {
        return;
    }
    first_turn_ = ledger_->turns.size();
    first_begun_ = ledger_->begun.size();
    if (to.address != nullptr) {
        to.write(to.address, to_);
    }
    is_recorded_ = true; // from here on nothing fails
    const telling now(*ledger_);
    for (std::size_t i = 0; i < ledger_->takers.size(); ++i) {
        keep_book(*ledger_, [&] {
            const taker by = ledger_->takers[i];
            if (by.to != nullptr && by.to->takes(account_)) {
                ledger_->begun.reserve(ledger_->begun.size() + 1);
                ledger_->begun.push_back({by, by.to->begin(core.kind, payload)});
            }
        });
    }
}

noted_publish::~noted_publish() {
    this_oversight.now = outer;
    this_oversight.unusual.outside = before_.outside;
    const bool goes_on = before_.ledger == this_oversight.serial; // a handler may have put another ledger in its place
    this_oversight.cause = goes_on ? before_.cause : 0;
    this_oversight.handling = goes_on ? before_.handling : 0;
    channel_books& sums = account_.sums;
    sums.deliveries += served_;
    code_site& site = ledger_->publish_sites[site_];
    if (served_ == 0) {
        ++sums.unheard;
        ++site.unheard;
    }
    if (flags_ != 0) [[unlikely]] {
        count_flags(site);
    }
    if (is_timed_) [[unlikely]] {
        account_.has_slow = found_slow_;
        account_.plain_in = found_slow_ ? 0 : account_.plain_in;
    }
    const bool has_ended = ledger_->over;
    if (is_recorded_) [[unlikely]] {
        record();
    }
    if (has_ended) [[unlikely]] {
        static_cast<void>(held<ledger_core>::taking_over(ledger_)); // let go when it ended
    }
}

void noted_publish::count_flags(code_site& site) noexcept {
    channel_books& sums = account_.sums;
    sums.stopped += (flags_ & receipt_stopped) != 0 ? 1U : 0U;
    sums.refused += (flags_ & receipt_refused) != 0 ? 1U : 0U;
    sums.vacant += (flags_ & receipt_vacant) != 0 ? 1U : 0U;
    site.vacant += (flags_ & receipt_vacant) != 0 ? 1U : 0U;
}

namespace {

bool is_taking(const ledger_core& ledger, const taker& who) noexcept {
    return std::any_of(ledger.takers.begin(), ledger.takers.end(),
                       [&who](const taker& one) { return one.to == who.to && one.serial == who.serial; });
}

} // namespace

event_facts noted_publish::facts() const noexcept {
    event_facts all;
    all.id = id_;
    all.cause = caused_.cause;
    all.handling = caused_.handling;
    all.on = &account_;
    all.channel = account_.number;
    all.site = site_;
    all.to = to_;
    all.outside = before_.outside;
    all.retained = is_retained_;
    all.turns = ledger_->turns.data() + first_turn_;
    all.turn_count = ledger_->turns.size() - first_turn_;
    all.flags = flags_;
    all.stopped_by = stopped_by_;
    all.from = caused_.cause == 0 ? this_oversight.from : nullptr;
    return all;
}

void noted_publish::record() noexcept {
    const held until_then(*ledger_); // a taker may end it
    event_facts what = facts();
    for (std::size_t i = first_begun_; i < ledger_->begun.size(); ++i) {
        const begun_event one = ledger_->begun[i];
        if (is_taking(*ledger_, one.by)) { // it may have left meanwhile
            what.kept = one.kept;
            keep_book(*ledger_, [&] { one.by.to->published(what); });
        }
    }
    ledger_->begun.resize(first_begun_);
    ledger_->turns.resize(first_turn_);
}

namespace {

// Why a subscription was silent.
turn told_apart(turn why, const slot& s) noexcept {
    const party* const owner = s.owner;
    return why == turn::paused && (s.blocked & block_paused) == 0 && owner != nullptr && owner->asleep != 0 &&
                   !owner->paused
               ? turn::asleep
               : why;
}

} // namespace

void noted_now::missed(turn why) noexcept {
    const slot* const s = serving();
    why = s != nullptr ? told_apart(why, *s) : why;
    why_ = why;
    if (s != nullptr && !is_for_later(*s)) {
        if (subscription_note* const note = note_of(*s); note != nullptr && counts_for(*note)) {
            ++note->missed[why];
        }
    }
}

bool noted_now::is_for_later(const slot& s) const noexcept {
    if (s.ops->invoke_span == nullptr) {
        return false;
    }
    const batch* of = core_->batches;
    while (of != nullptr && of->depth != in->depth()) {
        of = of->outer;
    }
    return of != nullptr && (s.ops->traits & of->served_late) != 0;
}

bool noted_now::counts_for(const subscription_note& note) const noexcept {
    return walk != 0 ? note.joined < walk : note.number == static_cast<const noted_publish*>(this)->turn_number_;
}

void noted_publish::call(flight& f, slot& s, const entry& hot, const void* payload) {
    turn_of = &s;
    const subscription_note* const note = note_of(s);
    const std::uint32_t number = note != nullptr ? note->number : 0; // it may end meanwhile
    const std::uint32_t outer_turn = std::exchange(turn_number_, number);
    why_ = turn::served;
    if (is_timed_ && clock_ == 0) {
        clock_ = clock_now(); // the end of one turn is the beginning of the next
    }
    if (!serve_one(f, s, hot, payload)) {
        missed(turn::failed);
    }
    std::uint64_t took = 0;
    if (is_timed_ && why_ != turn::paused && why_ != turn::asleep && why_ != turn::outside_period &&
        why_ != turn::condition) {
        const std::uint64_t now = clock_now();
        took = now - std::exchange(clock_, now);
        found_slow_ = found_slow_ || took >= slow;
        if (subscription_note* const still = note_of(s); still != nullptr) {
            add_time(*still, took);
        }
    }
    turn_number_ = outer_turn;
    if (is_recorded_) {
        keep_book(*ledger_, [&] {
            ledger_->turns.push_back(
                {number, static_cast<std::uint32_t>(std::min<std::uint64_t>(took, UINT32_MAX)), why_});
        });
    }
}

void noted_publish::walk_ends(const flight& f) noexcept {
    turn_of = nullptr;
    if (f.is_ruled()) {
        const subscription_note* const by = note_of(f.ruled_by());
        stopped_by_ = by != nullptr ? by->number : 0;
    }
}

void noted_now::told_on(std::uint32_t channel) noexcept {
    const slot* const teller = serving();
    if (teller != nullptr && core_->books != nullptr && is_full_) {
        keep_book(*ledger_, [&] { static_cast<noted_publish*>(this)->note_told(channel, *teller); });
    }
}

void noted_publish::note_told(std::uint32_t channel, const slot& by) {
    const slot* const teller = &by;
    const noted_handler note = noted_handler_of(by);
    auto& all = told_;
    if (all == nullptr) {
        all = std::make_unique<std::vector<noted_publish::told>>();
    }
    for (const noted_publish::told& t : *all) {
        if (t.channel == channel && t.by != teller && t.by->list == teller->list && t.note.site != UINT32_MAX &&
            note.site != UINT32_MAX) {
            note_order(*ledger_, core_->books->number, t.note, note, order_matter::both_publish, channel);
        }
    }
    all->push_back({channel, teller, note});
}

void note_filtered() noexcept {
    if (noted_now* const now = this_oversight.now; now != nullptr && now->in == innermost()) {
        now->missed(turn::filtered);
    }
}

void note_missed_turn(turn why) noexcept {
    noted_now* const now = this_oversight.now;
    const slot* const serving = now != nullptr && now->in == innermost() ? now->serving() : nullptr;
    if (serving == nullptr) {
        return;
    }
    if ((serving->blocked & (block_paused | block_owner_paused)) != 0) {
        now->missed(turn::paused);
    } else if ((serving->blocked & block_ended) == 0) {
        now->missed(why);
    }
}

void note_missed_span(slot& s, turn why, std::size_t count) noexcept {
    if (subscription_note* const note = note_of(s); note != nullptr) {
        note->extra += count;
        note->missed[told_apart(why, s)] += count;
    }
}

void serve_span_noted(slot& s, const void* first, std::size_t count) {
    struct timed {
        slot& of;
        std::uint64_t begun = clock_now();
        ~timed() {
            if (subscription_note* const note = note_of(of); note != nullptr) {
                add_time(*note, clock_now() - begun);
            }
        }
    };
    const account& books = *s.list->core->books;
    subscription_note* const note = note_of(s);
    if (note != nullptr) {
        note->extra += count;
    }
    const caused_by latest({books.newest_event, note != nullptr ? note->number : 0, books.ledger->serial, false});
    const timed now{s};
    s.ops->invoke_span(state_of(s), first, count);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
