// What is noted of one publish on a channel that a ledger is attached to.
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

// The first publish of a frame, or of a line of code in it.
void note_in_frame(const ledger_core& ledger, account& books, code_site& site) noexcept {
    channel_books& sums = books.sums;
    if (books.frame != ledger.frame) {
        if (sums.frames++ == 0) {
            sums.first_frame = ledger.frame;
        }
        sums.most_in_frame = most_in_frame(books);
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

std::uint64_t clock_now() noexcept {
    return static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::steady_clock::now().time_since_epoch())
            .count());
}

namespace {

// What happens now is caused by, when a publish is under way.
origin origin_in(const noted_now& now) noexcept {
    if (now.id() == this_oversight.cause) {
        const slot* const serving = now.serving();
        const subscription_note* const note = serving != nullptr ? note_of(*serving) : nullptr;
        return {this_oversight.cause, note != nullptr ? note->number : 0};
    }
    return {this_oversight.cause, this_oversight.handling};
}

} // namespace

origin origin_here() noexcept {
    const noted_now* const now = this_oversight.now;
    return now != nullptr ? origin_in(*now) : origin{this_oversight.cause, this_oversight.handling};
}

slot* noted_now::serving() const noexcept {
    return at != nullptr && is_gone(*at) ? nullptr : called();
}

slot* noted_now::called() const noexcept {
    if (at == nullptr) {
        return turn_of;
    }
    for (stage_list* list = core_->lists; list != nullptr; list = list->next) {
        if (const entry* const first = list->array_of(at); first != nullptr) {
            return list->slots[at - first];
        }
    }
    return nullptr;
}

noted_publish::noted_publish(channel_core& core, const void* payload, std::source_location where, bool is_retained)
    : noted_now(core, *core.books->ledger, ++core.books->ledger->newest_id, this_oversight.now), account_(*core.books),
      before_{this_oversight.cause, this_oversight.handling}, is_retained_(is_retained) {
    is_full_ = true;
    publisher_ = std::exchange(this_oversight.publisher, nullptr);
    site_ = publish_site(account_, where, publisher_ != nullptr ? std::string_view{*publisher_} : std::string_view{});
    note_in_frame(*ledger_, account_, *account_.site);
    ++account_.site->count;
    ++account_.sums.published;
    caused_ = outer != nullptr ? origin_in(*outer) : before_;
    account_.newest_event = id_;
    remember(*ledger_, id_, caused_, account_.number, site_, false);
    if (account_.has_slow || account_.until_timed-- == 0) [[unlikely]] {
        account_.until_timed = ledger_->time_one_in - 1;
        is_timed_ = true;
    }
    const void* const key = publisher_ == nullptr ? key_of(where) : nullptr;
    account_.site_key = key != nullptr ? key : &account_;
    if (ledger_->sink != nullptr || ledger_->shake != 0) [[unlikely]] {
        look_closer(core, payload);
    } else {
        account_.plain_in = ledger_->epoch;
    }
    outside_ = std::exchange(this_oversight.outside, false); // what its handlers do is not
    this_oversight.to = {};
    this_oversight.cause = id_;
    this_oversight.now = this;
}

void noted_publish::look_closer(const channel_core& core, const void* payload) {
    if (ledger_->shake != 0 && outer != nullptr && outer->id() == before_.cause) {
        outer->told_on(account_.number);
    }
    if (ledger_->sink != nullptr) {
        is_recorded_ = true;
        first_turn_ = ledger_->turns.size();
        told_to_ = ledger_->sink_serial;
        kept_ = ledger_->sink->begin(core.kind, payload);
        if (this_oversight.to.address != nullptr) {
            this_oversight.to.write(this_oversight.to.address, to_);
        }
    }
}

noted_publish::~noted_publish() {
    this_oversight.now = outer;
    this_oversight.publisher = publisher_; // who may publish several
    this_oversight.outside = outside_;
    this_oversight.cause = ledger_->over ? 0 : before_.cause;
    this_oversight.handling = before_.handling;
    channel_books& sums = account_.sums;
    const std::uint32_t heard = served_ - std::min(served_, fell);
    sums.deliveries += heard;
    code_site& site = ledger_->publish_sites[site_];
    if (heard == 0) {
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
    if (is_recorded_) [[unlikely]] {
        record();
    }
    if (ledger_->over) [[unlikely]] {
        release(*ledger_);
    }
}

void noted_publish::count_flags(code_site& site) noexcept {
    channel_books& sums = account_.sums;
    sums.stopped += (flags_ & receipt_stopped) != 0 ? 1U : 0U;
    sums.refused += (flags_ & receipt_refused) != 0 ? 1U : 0U;
    sums.vacant += (flags_ & receipt_vacant) != 0 ? 1U : 0U;
    site.vacant += (flags_ & receipt_vacant) != 0 ? 1U : 0U;
}

void noted_publish::record() {
    if (ledger_->sink != nullptr && ledger_->sink_serial == told_to_) {
        event_facts facts;
        facts.id = id_;
        facts.cause = caused_.cause;
        facts.handling = caused_.handling;
        facts.on = &account_;
        facts.channel = account_.number;
        facts.site = site_;
        facts.kept = kept_;
        facts.to = to_;
        facts.outside = outside_;
        facts.retained = is_retained_;
        facts.turns = ledger_->turns.data() + first_turn_;
        facts.turn_count = ledger_->turns.size() - first_turn_;
        facts.flags = flags_;
        facts.stopped_by = stopped_by_;
        ledger_->sink->published(facts);
    }
    ledger_->turns.resize(first_turn_);
}

void noted_now::missed(turn why) noexcept {
    why_ = why;
    fell += why == turn::filtered ? 1U : 0U;
    if (const slot* const s = serving(); s != nullptr) {
        if (subscription_note* const note = note_of(*s); note != nullptr) {
            ++note->missed[why];
        }
    }
}

void noted_publish::serve(frame& f, slot& s, const entry& hot, const void* payload) {
    turn_of = &s;
    const subscription_note* const note = note_of(s);
    const std::uint32_t number = note != nullptr ? note->number : 0; // it may end meanwhile
    why_ = turn::served;
    if (is_timed_ && clock_ == 0) {
        clock_ = clock_now(); // the end of one turn is the beginning of the next
    }
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
        const std::uint64_t now = clock_now();
        took = now - std::exchange(clock_, now);
        found_slow_ = found_slow_ || took >= slow;
        if (subscription_note* const still = note_of(s); still != nullptr) {
            if (still->times == nullptr) {
                still->times = std::make_unique<time_buckets>();
            }
            still->times->add(took);
        }
    }
    if (is_recorded_) {
        ledger_->turns.push_back({number, static_cast<std::uint32_t>(std::min<std::uint64_t>(took, UINT32_MAX)), why_});
    }
}

void noted_publish::ruled(frame& f) noexcept {
    const subscription_note* const by = note_of(*f.ruled_by);
    stopped_by_ = by != nullptr ? by->number : 0;
}

void noted_now::told_on(std::uint32_t channel) {
    const slot* const teller = serving();
    if (teller == nullptr || core_->books == nullptr || !is_full_) {
        return;
    }
    const std::uint32_t site = site_of(*teller);
    auto& all = static_cast<noted_publish*>(this)->told_;
    if (all == nullptr) {
        all = std::make_unique<std::vector<noted_publish::told>>();
    }
    for (const noted_publish::told& t : *all) {
        if (t.channel == channel && t.by != teller && t.by->list == teller->list && t.site != UINT32_MAX &&
            site != UINT32_MAX) {
            note_order(*ledger_, core_->books->number, t.site, site, order_matter::both_tell, channel);
        }
    }
    all->push_back({channel, teller, site});
}

void note_filtered() noexcept {
    if (noted_now* const now = this_oversight.now; now != nullptr && now->in == innermost()) {
        now->missed(turn::filtered);
    }
}

void note_skipped() noexcept {
    noted_now* const now = this_oversight.now;
    const bool by_gate = std::exchange(this_oversight.gate_closed, false);
    const slot* const serving = now != nullptr && now->in == innermost() ? now->serving() : nullptr;
    if (serving == nullptr) {
        return;
    }
    if ((serving->blocked & (block_paused | block_owner_paused)) != 0) {
        now->missed(turn::paused);
    } else if ((serving->blocked & block_ended) == 0) {
        now->missed(by_gate ? turn::gate_closed : turn::condition);
    }
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
