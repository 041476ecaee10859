// What a ledger notes apart from publishes.
#include "in_flight.hpp"
#include "ledger_pages.hpp"
#include "noted.hpp"
#include "subscriptions.hpp"

#include <courier/detail/hub_core.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <atomic>
#include <bit>
#include <cstring>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

namespace {

constexpr std::size_t most_past = 64;

code_line line_of(std::source_location where) {
    return {where.file_name(), where.line()};
}

// The library's own types carry its version and options in their names.
std::string without_version(std::string_view type) {
#define WIRED_COURIER_TEXT_(name) #name
#define WIRED_COURIER_TEXT(name) WIRED_COURIER_TEXT_(name)
    constexpr std::string_view version = WIRED_COURIER_TEXT(WIRED_COURIER_ABI) "::";
#undef WIRED_COURIER_TEXT
#undef WIRED_COURIER_TEXT_
    std::string plain{type};
    for (std::size_t at = plain.find(version); at != std::string::npos; at = plain.find(version, at)) {
        plain.erase(at, version.size());
    }
    return plain;
}

} // namespace

void time_buckets::add(std::uint64_t ns) noexcept {
    ++measured;
    worst = std::max(worst, ns);
    ++buckets[std::min<std::size_t>(static_cast<std::size_t>(std::bit_width(ns)), buckets.size() - 1)];
}

void time_buckets::add(const time_buckets& other) noexcept {
    measured += other.measured;
    worst = std::max(worst, other.worst);
    for (std::size_t i = 0; i < buckets.size(); ++i) {
        buckets[i] += other.buckets[i];
    }
}

handler_times time_buckets::sum_up() const noexcept {
    std::uint64_t below = 0;
    for (std::size_t i = 0; i < buckets.size(); ++i) {
        below += buckets[i];
        if (below * 2 >= measured && measured != 0) {
            return {measured, worst, std::min(worst, (std::uint64_t{1} << i) - (i == 0 ? 0 : 1))};
        }
    }
    return {measured, worst, 0};
}

turn_counts subscription_note::turns() const noexcept {
    turn_counts sum = missed;
    std::uint64_t not_served = 0;
    for (const turn why : {turn::paused, turn::gate_closed, turn::condition, turn::filtered, turn::stopped}) {
        not_served += missed[why];
    }
    sum[turn::served] = of->list->core->walks - joined + extra - not_served;
    return sum;
}

void release(ledger_core& ledger) noexcept {
    if (--ledger.refs == 0) {
        delete &ledger;
    }
}

account& account_for(ledger_core& ledger, const channel_core& core) {
    std::string key = core.name;
    key += '\n';
    key += core.kind->name;
    const auto [found, is_new] =
        ledger.account_numbers.emplace(std::move(key), static_cast<std::uint32_t>(ledger.accounts.size()));
    if (is_new) {
        auto made = std::make_unique<account>();
        made->ledger = &ledger;
        made->number = found->second;
        made->sums.name = core.name;
        made->sums.payload = without_version(core.kind->name);
        made->sums.is_query = core.kind->is_query;
        ledger.accounts.push_back(std::move(made));
    }
    return *ledger.accounts[found->second];
}

std::uint32_t find_publish_site(account& books, std::source_location where, std::string_view who) {
    std::deque<code_site>& all = books.ledger->publish_sites;
    for (const std::uint32_t number : books.sites) {
        if (all[number].where.line == where.line() && all[number].who == who &&
            std::strcmp(all[number].where.file.c_str(), where.file_name()) == 0) {
            all[number].file_key = where.file_name();
            books.site = &all[number];
            return books.newest_site = number;
        }
    }
    const auto number = static_cast<std::uint32_t>(all.size());
    all.push_back({where.file_name(), books.number, line_of(where), std::string{who}});
    books.sites.push_back(number);
    books.site = &all.back();
    return books.newest_site = number;
}

void note_order(ledger_core& ledger, std::uint32_t channel, std::uint32_t first_site, std::uint32_t second_site,
                order_matter how, std::uint32_t on) {
    if (how == order_matter::both_tell && second_site < first_site) {
        std::swap(first_site, second_site); // which came first is chance
    }
    for (order_note& pair : ledger.orders) {
        if (pair.channel == channel && pair.first == first_site && pair.second == second_site && pair.how == how &&
            pair.on == on) {
            ++pair.times;
            return;
        }
    }
    ledger.orders.push_back({channel, first_site, second_site, how, on, 1, ledger.frame});
}

// The chain from `newest` back to where it was on the same channel before, if
// all of it is remembered.
void note_cycle(ledger_core& ledger, const event_memory& newest) {
    std::vector<std::uint32_t> chain{newest.channel};
    std::uint64_t rounds = 0;
    std::vector<std::uint32_t> first_round;
    for (const event_memory* m = ledger.find(newest.cause); m != nullptr; m = ledger.find(m->cause)) {
        if (m->is_post) {
            continue;
        }
        chain.push_back(m->channel);
        if (m->channel == newest.channel) {
            if (rounds++ == 0) {
                first_round = chain;
            }
        }
    }
    if (rounds == 0) {
        return; // another channel with the same bit
    }
    std::reverse(first_round.begin(), first_round.end());
    first_round.pop_back(); // back to the first; it is written again for people only
    std::rotate(first_round.begin(), std::min_element(first_round.begin(), first_round.end()), first_round.end());
    for (cycle_note& known : ledger.cycles) {
        if (known.channels == first_round) {
            ++known.times;
            known.longest = std::max(known.longest, rounds);
            return;
        }
    }
    ledger.cycles.push_back({std::move(first_round), newest.site, 1, rounds, ledger.frame});
}

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

void enter_note(ledger_core& ledger, slot& s) {
    channel_core& core = *s.list->core;
    s.list->keep_notes();
    auto note = std::make_unique<subscription_note>();
    const party* const belongs_to = s.owner != nullptr ? s.owner : this_oversight.on_behalf;
    note->number = ++ledger.newest_subscription;
    note->of = &s;
    note->joined = core.walks;
    note->published_before = core.books->sums.published;
    note->since_frame = ledger.frame;
    note->since_time = ledger.time;
    if (belongs_to != nullptr) {
        party_note& owner = note_party(ledger, *const_cast<party*>(belongs_to));
        note->party = owner.number;
        owner.sums.live += 1;
        note->name = &owner.sums.name;
    }
    if (core.book != nullptr && this_oversight.to.address != nullptr && s.to_all == 0) {
        this_oversight.to.write(this_oversight.to.address, note->address);
    }
    note->site = subscribe_site(*core.books, s, note->name != nullptr ? std::string_view{*note->name} : "");
    code_site& site = ledger.subscribe_sites[note->site];
    ++site.count;
    ++site.live;
    ledger.site_of[note->number & (ledger.site_of.size() - 1)] = note->site;
    s.list->notes[s.index] = note.get();
    const subscription_note& entered = *note;
    ledger.notes.emplace(note->number, std::move(note));
    if (ledger.sink != nullptr) {
        ledger.sink->subscribed(entered);
    }
}

void note_attached(slot& s) {
    enter_note(*s.list->core->books->ledger, s);
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
        note_order(ledger, s.list->core->books->number, first->site, second.site, order_matter::ends);
    }
}

} // namespace

namespace {

// A subscription's note goes; what it says stays in the sums.
void fold_note(slot& s, bool channel_closed) noexcept {
    subscription_note* const found = note_of(s);
    if (found == nullptr) {
        return;
    }
    channel_core& core = *s.list->core;
    ledger_core& ledger = *core.books->ledger;
    if (ledger.sink != nullptr) {
        ledger.sink->ended(*found, channel_closed);
    }
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
            sums.last_channel = core.name;
            sums.last_where = site.where;
            sums.last_frame = ledger.frame;
        }
    }
    take_note(ledger, s);
}

} // namespace

void note_detached(slot& s) noexcept {
    subscription_note* const found = note_of(s);
    if (found == nullptr) {
        return;
    }
    channel_core& core = *s.list->core;
    ledger_core& ledger = *core.books->ledger;
    for (const noted_now* now = this_oversight.now; now != nullptr; now = now->outer) {
        if (found->joined < now->walk && is_ahead(*now, s)) {
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
    if (ledger.sink != nullptr) {
        ledger.sink->paused(*note, is_blocked);
    }
}

void note_party_end(const party& gone) noexcept {
    ledger_core* const ledger = this_oversight.ledger;
    if (ledger == nullptr || gone.ledger != ledger->serial) {
        return;
    }
    if (ledger->parties.erase(gone.number) != 0 && ledger->sink != nullptr) {
        ledger->sink->party_ended(gone.number);
    }
}

bool oversee(ledger_core& ledger, channel_core& core) {
    if (core.books != nullptr || core.kind == nullptr || core.kind->is_internal || core.closed ||
        core.thread != ledger.thread) {
        return false;
    }
    account& books = account_for(ledger, core);
    core.books = &books;
    core.work |= work_noted;
    if (core.hub != nullptr && books.sums.hub.empty()) {
        books.sums.hub = core.hub->name().empty() ? "hub" : core.hub->name();
    }
    ++books.sums.open;
    if (ledger.sink != nullptr) {
        ledger.sink->channel_opened(books);
    }
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

void note_opened(channel_core& core) {
    if (ledger_core* const ledger = this_oversight.ledger;
        ledger != nullptr && (ledger->everything || (core.hub != nullptr && core.hub->overseen_by(ledger->serial)))) {
        oversee(*ledger, core);
    }
}

void note_closed(channel_core& core) noexcept {
    account& books = *core.books;
    --books.sums.open;
    if (books.ledger->sink != nullptr) {
        books.ledger->sink->channel_closed(books);
    }
    core.books = nullptr; // its subscriptions are gone
}

post_mark note_sleep(std::source_location where) noexcept {
    return {origin_here(), where, this_oversight.outside, true};
}

post_mark note_post(channel_core& target, const std::string& outbox, const void* payload, std::source_location where,
                    posting_outcome outcome) {
    post_mark mark = note_sleep(where);
    const address_label to = std::exchange(this_oversight.to, {});
    if (target.books == nullptr) {
        return mark;
    }
    account& books = *target.books;
    ledger_core& ledger = *books.ledger;
    const std::uint32_t site = publish_site(books, where, {});
    ++books.sums.posted;
    books.sums.merged += outcome == posting_outcome::merged ? 1U : 0U;
    books.sums.turned_away += outcome == posting_outcome::turned_away ? 1U : 0U;
    const std::uint64_t id = ++ledger.newest_id;
    remember(ledger, id, mark.by, books.number, site, true);
    if (noted_now* const now = this_oversight.now; ledger.shake != 0 && now != nullptr && now->id() == mark.by.cause) {
        now->told_on(books.number);
    }
    if (ledger.sink != nullptr) {
        post_facts facts;
        facts.id = id;
        facts.cause = mark.by.cause;
        facts.handling = mark.by.handling;
        facts.channel = books.number;
        facts.site = site;
        facts.to = to;
        facts.outcome = outcome;
        facts.outside = mark.outside;
        facts.kind = target.kind;
        facts.payload = payload;
        facts.outbox = outbox;
        ledger.sink->posted(facts);
    }
    mark.by.cause = id;
    return mark;
}

namespace {

// The event, whether it went from thread to thread by hand, and the ledger.
constexpr int serial_bits = 20;
constexpr std::uint64_t serial_mask = (std::uint64_t{1} << serial_bits) - 1;

} // namespace

std::uint64_t packed_cause() noexcept {
    const ledger_core* const ledger = this_oversight.ledger;
    return ledger != nullptr ? this_oversight.cause << (serial_bits + 1) | (ledger->serial & serial_mask) : 0;
}

std::uint64_t unpacked_cause(std::uint64_t packed) noexcept {
    const ledger_core* const ledger = this_oversight.ledger;
    return ledger != nullptr && (packed & serial_mask) == (ledger->serial & serial_mask) ? packed >> (serial_bits + 1)
                                                                                         : 0;
}

bool is_from_here(std::uint64_t packed) noexcept {
    const ledger_core* const ledger = this_oversight.ledger;
    return ledger != nullptr && (packed & carried_bit) == 0 && (packed & serial_mask) == (ledger->serial & serial_mask);
}

void set_sink(ledger_core& ledger, event_sink* to) noexcept {
    ledger.sink = to;
    ++ledger.sink_serial;
    ++ledger.epoch;
}

std::uint64_t most_in_frame(const account& books) noexcept {
    return std::max(books.sums.most_in_frame, books.sums.published - books.before_frame);
}

void note_frame(std::int64_t time) {
    ledger_core* const ledger = this_oversight.ledger;
    if (ledger == nullptr) {
        return;
    }
    ledger->time = time;
    this_oversight.frame = ledger->frame + 1;
    if (ledger->frame % ledger->past_every == 0) {
        bool is_full = false;
        for (code_site& site : ledger->subscribe_sites) {
            site.past.push_back(site.live);
            is_full = is_full || site.past.size() >= most_past;
        }
        if (is_full) { // from now on half as often
            ledger->past_every *= 2;
            for (code_site& site : ledger->subscribe_sites) {
                std::size_t to = 0;
                for (std::size_t from = 1; from < site.past.size(); from += 2) {
                    site.past[to++] = site.past[from];
                }
                site.past.resize(to);
            }
        }
    }
    if (ledger->sink != nullptr) {
        ledger->sink->frame(ledger->frame, time);
    }
    ++ledger->frame;
    ++ledger->epoch;
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
