// SPDX-License-Identifier: MIT
// What a ledger notes apart from publishes.
#include "delivery/in_flight.hpp"
#include "delivery/subscriptions.hpp"
#include "ledger/ledger_pages.hpp"
#include "ledger/noted.hpp"

#include <courier/detail/routing/hub_core.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <atomic>
#include <bit>
#include <cstring>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::uint32_t site_of(const ledger_core& ledger, std::uint32_t subscription) noexcept {
    const std::size_t mask = ledger.site_of.size() - 1;
    return subscription != 0 && ledger.newest_subscription - subscription <= mask ? ledger.site_of[subscription & mask]
                                                                                  : UINT32_MAX;
}

namespace {

std::uint32_t subscribe_site(account& books, const slot& s, std::string_view who) {
    std::vector<code_site>& all = books.ledger->subscribe_sites;
    for (const std::uint32_t number : books.subscribes) {
        if (all[number].where.line == s.where.line() &&
            (all[number].file_key == s.where.file_name() || all[number].where.file == s.where.file_name())) {
            return number;
        }
    }
    const auto number = static_cast<std::uint32_t>(all.size());
    all.push_back({s.where.file_name(), books.number, line_of(s.where), std::string{who}});
    all.back().first_frame = books.ledger->frame;
    books.subscribes.push_back(number);
    return number;
}

party_note& note_party(ledger_core& ledger, party& owner) {
    if (owner.ledger != ledger.serial) {
        owner.ledger = ledger.serial;
        owner.number = ++ledger.newest_party;
        party_note& made = ledger.parties[owner.number];
        made.number = owner.number;
        made.sums.name = owner.name;
    }
    return ledger.parties[owner.number];
}

std::unique_ptr<subscription_note> take_note(ledger_core& ledger, slot& s) {
    subscription_note*& place = s.list->notes[s.index];
    auto node = ledger.notes.extract(place->number);
    place = nullptr;
    return std::move(node.mapped());
}

} // namespace

namespace {

void make_note(ledger_core& ledger, slot& s, const attach_request* request) {
    channel_core& core = *s.list->core;
    s.list->keep_notes();
    auto note = std::make_unique<subscription_note>();
    const party* const belongs_to = request != nullptr ? request->whose.on_behalf : s.owner;
    note->number = ++ledger.newest_subscription;
    note->of = &s;
    note->joined = core.walks;
    note->batches_joined = core.batch_walks;
    note->published_before = core.books->sums.published;
    note->since_frame = ledger.frame;
    note->since_time = ledger.time;
    if (belongs_to != nullptr) {
        party_note& owner = note_party(ledger, *const_cast<party*>(belongs_to));
        note->party = owner.number;
        note->name = &owner.sums.name;
    }
    if (request != nullptr && request->at != nullptr && request->at->label.address != nullptr) {
        request->at->label.write(request->at->label.address, note->address);
    }
    note->site = subscribe_site(*core.books, s, note->name != nullptr ? std::string_view{*note->name} : "");
    const subscription_note& entered = *note;
    subscription_note* const place = note.get();
    ledger.notes.emplace(entered.number, std::move(note));
    s.list->notes[s.index] = place; // from here on nothing fails
    code_site& site = ledger.subscribe_sites[entered.site];
    ++site.count;
    ++site.live;
    if (entered.party != 0) {
        ledger.parties[entered.party].sums.live += 1;
    }
    ledger.site_of[entered.number & (ledger.site_of.size() - 1)] = entered.site;
    tell(ledger, core.books, [&](event_sink& sink) { sink.subscribed(entered); });
}

} // namespace

void enter_note(ledger_core& ledger, slot& s) noexcept {
    keep_book(ledger, [&] { make_note(ledger, s, nullptr); });
}

void note_attached(slot& s, const attach_request& request) noexcept {
    ledger_core& ledger = *s.list->core->books->ledger;
    keep_book(ledger, [&] { make_note(ledger, s, &request); });
}

namespace {

// Whether a walk that is under way has still to come to `s`.
bool is_ahead(const noted_now& now, const slot& s) noexcept {
    const slot* const serving = &now.core() == s.list->core ? now.serving() : nullptr;
    if (serving == nullptr || now.in == nullptr) {
        return false;
    }
    const slot& at = *serving;
    return at.list != s.list ? at.list->place < s.list->place
                             : born_since(s, static_cast<std::uint32_t>(at.born)) && &at != &s;
}

// One handler ended or paused another one that stands in the same stage.
void note_interference(ledger_core& ledger, const slot& s, const subscription_note& second) {
    const noted_now* const now = this_oversight.now;
    const slot* const serving = now != nullptr ? now->serving() : nullptr;
    if (serving == nullptr || serving == &s || serving->list != s.list) {
        return;
    }
    const subscription_note* const first = note_of(*serving);
    if (first != nullptr && first->site != second.site) {
        note_order(ledger, s.list->core->books->number, noted_handler_of(*first), noted_handler_of(second),
                   order_matter::ends);
    }
}

} // namespace

namespace {

// A party that has ended stays as long as a subscription of its refers to its
// name: those of a pipeline that is running end with that.
void forget_if_gone(ledger_core& ledger, std::uint32_t party) noexcept {
    const auto found = ledger.parties.find(party);
    if (found != ledger.parties.end() && found->second.ended && found->second.sums.live == 0) {
        ledger.parties.erase(found);
        tell(ledger, nullptr, [&](event_sink& sink) { sink.party_ended(party); });
    }
}

// A subscription's note goes; what it says stays in the sums.
void fold_note(slot& s, bool channel_closed) noexcept {
    subscription_note* const found = note_of(s);
    if (found == nullptr) {
        return;
    }
    channel_core& core = *s.list->core;
    ledger_core& ledger = *core.books->ledger;
    tell(ledger, core.books, [&](event_sink& sink) { sink.ended(*found, channel_closed); });
    code_site& site = ledger.subscribe_sites[found->site];
    --site.live;
    site.turns.add(found->turns());
    if (found->times != nullptr) {
        site.times.add(*found->times);
    }
    if (const auto owner = ledger.parties.find(found->party); owner != ledger.parties.end()) {
        party_books& sums = owner->second.sums;
        --sums.live;
        if (channel_closed) {
            ++sums.lost;
            keep_book(ledger, [&] {
                sums.last_channel = core.name;
                sums.last_where = site.where;
            });
            sums.last_frame = ledger.frame;
        }
    }
    const std::uint32_t party = found->party;
    take_note(ledger, s);
    forget_if_gone(ledger, party);
}

} // namespace

void note_detached(slot& s) noexcept {
    subscription_note* const found = note_of(s);
    if (found == nullptr) {
        return;
    }
    channel_core& core = *s.list->core;
    ledger_core& ledger = *core.books->ledger;
    for (noted_now* now = this_oversight.now; now != nullptr; now = now->outer) {
        if (now->called() == &s) { // what it goes on to publish is its own all the same
            now->ended = &s;
            now->ended_number = found->number;
        }
        if (found->joined < now->walk && is_ahead(*now, s) && !now->is_for_later(s)) {
            --found->extra; // that one it will not hear, though the walk counts
        }
    }
    if (!core.closed) {
        note_interference(ledger, s, *found);
    }
    fold_note(s, core.closed);
}

void note_blocked(slot& s, bool was_blocked) noexcept {
    const subscription_note* const note = note_of(s);
    const bool is_blocked = (s.blocked & (block_paused | block_owner_paused)) != 0;
    if (note == nullptr || is_blocked == was_blocked) {
        return;
    }
    ledger_core& ledger = *s.list->core->books->ledger;
    if (is_blocked) {
        note_interference(ledger, s, *note);
    }
    tell(ledger, s.list->core->books, [&](event_sink& sink) { sink.paused(*note, is_blocked); });
}

void note_party_end(const party& gone) noexcept {
    ledger_core* const ledger = this_oversight.ledger;
    if (ledger == nullptr || gone.ledger != ledger->serial) {
        return;
    }
    if (const auto found = ledger->parties.find(gone.number); found != ledger->parties.end()) {
        found->second.ended = true;
        forget_if_gone(*ledger, gone.number);
    }
}

bool oversee(ledger_core& ledger, channel_core& core) {
    if (core.books != nullptr || core.kind == nullptr || core.kind->is_internal || core.closed ||
        core.thread != ledger.thread) {
        return false;
    }
    account& books = account_for(ledger, core);
    if (core.hub != nullptr && books.sums.hub.empty()) {
        books.sums.hub = core.hub->name().empty() ? "hub" : core.hub->name();
    }
    core.books = &books; // from here on nothing fails
    core.work |= work_noted;
    ++books.sums.open;
    tell(ledger, &books, [&](event_sink& sink) { sink.channel_opened(books); });
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        for (std::uint32_t i = 0; i < list->size; ++i) {
            if (!is_gone(list->entries[i])) {
                enter_note(ledger, *list->slots[i]);
            }
        }
    }
    return true;
}

void forget(channel_core& core) noexcept {
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        for (std::uint32_t i = 0; i < list->size; ++i) {
            if (!is_gone(list->entries[i])) {
                fold_note(*list->slots[i], false);
            }
        }
        list->drop_notes();
    }
    note_closed(core);
    core.work &= ~static_cast<std::uint32_t>(work_noted);
}

void note_opened(channel_core& core) noexcept {
    if (ledger_core* const ledger = this_oversight.ledger;
        ledger != nullptr && (ledger->everything || (core.hub != nullptr && core.hub->overseen_by(ledger->serial)))) {
        keep_book(*ledger, [&] { oversee(*ledger, core); });
    }
}

void note_closed(channel_core& core) noexcept {
    account& books = *core.books;
    --books.sums.open;
    tell(*books.ledger, &books, [&](event_sink& sink) { sink.channel_closed(books); });
    core.books = nullptr; // its subscriptions are gone
}

namespace {

// The event that the post is.
std::uint64_t enter_post(channel_core& target, const std::string& outbox, const void* payload, const post_mark& mark,
                         const address_label& to, posting_outcome outcome) {
    account& books = *target.books;
    ledger_core& ledger = *books.ledger;
    const std::uint32_t site = publish_site(books, mark.where, {});
    ++books.sums.posted;
    books.sums.combined += outcome == posting_outcome::combined ? 1U : 0U;
    books.sums.turned_away += outcome == posting_outcome::turned_away ? 1U : 0U;
    const std::uint64_t id = ++ledger.newest_id;
    remember(ledger, id, mark.by, books.number, site, true);
    if (noted_now* const now = this_oversight.now;
        ledger.order_seed != 0 && now != nullptr && now->id() == mark.by.cause) {
        now->told_on(books.number);
    }
    tell(ledger, &books, [&](event_sink& sink) {
        post_facts facts;
        facts.id = id;
        facts.cause = mark.by.cause;
        facts.handling = mark.by.handling;
        facts.channel = books.number;
        facts.site = site;
        facts.to = to;
        facts.outcome = outcome;
        facts.outside = mark.by.outside;
        facts.kind = target.kind;
        facts.payload = payload;
        facts.outbox = outbox;
        sink.posted(facts);
    });
    return id;
}

} // namespace

post_mark note_post(channel_core& target, const std::string& outbox, const void* payload, std::source_location where,
                    const address_label& to, posting_outcome outcome) noexcept {
    post_mark mark = mark_here(where);
    if (target.books != nullptr) {
        keep_book(*target.books->ledger,
                  [&] { mark.by.cause = enter_post(target, outbox, payload, mark, to, outcome); });
    }
    return mark;
}

void note_module_end() noexcept {
    if (ledger_core* const ledger = this_oversight.ledger; ledger != nullptr) {
        tell(*ledger, nullptr, [](event_sink& sink) { sink.forget_kinds(); });
    }
}

void add_taker(ledger_core& ledger, event_sink& to) {
    ledger.takers.push_back({&to, ++ledger.newest_taker});
    ++ledger.epoch;
}

void remove_taker(ledger_core& ledger, const event_sink& which) noexcept {
    const telling now(ledger);
    for (taker& one : ledger.takers) {
        if (one.to == &which) {
            one.to = nullptr;
        }
    }
    ++ledger.epoch;
}

std::uint64_t max_in_frame(const account& books) noexcept {
    return std::max(books.sums.max_in_frame, books.sums.published - books.before_frame);
}

namespace {

constexpr std::size_t most_past = 64;

// How many subscriptions each line has now, beside how many it had.
void note_past(ledger_core& ledger) {
    bool is_full = false;
    for (code_site& site : ledger.subscribe_sites) {
        site.past.push_back(site.live);
        is_full = is_full || site.past.size() >= most_past;
    }
    if (!is_full) {
        return;
    }
    ledger.past_every *= 2; // from now on half as often
    for (code_site& site : ledger.subscribe_sites) {
        std::size_t to = 0;
        for (std::size_t from = 1; from < site.past.size(); from += 2) {
            site.past[to++] = site.past[from];
        }
        site.past.resize(to);
    }
}

} // namespace

void note_frame(std::int64_t time) noexcept {
    ledger_core* const ledger = this_oversight.ledger;
    if (ledger == nullptr) {
        return;
    }
    ledger->time = time;
    this_oversight.frame = ledger->frame + 1;
    if (ledger->frame % ledger->past_every == 0) {
        keep_book(*ledger, [&] { note_past(*ledger); });
    }
    tell(*ledger, nullptr, [&](event_sink& sink) { sink.frame(ledger->frame, time); });
    ++ledger->frame;
    ++ledger->epoch;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
