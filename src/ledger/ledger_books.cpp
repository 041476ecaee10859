// A ledger's books, copied out.
#include <courier/detail/later/waiting_places.hpp>
#include <courier/ledger.hpp>
#include <courier/phases.hpp>
#include <courier/sequence.hpp>
#include <courier/systems.hpp>

#include "ledger/ledger_pages.hpp"
#include "ledger/noted.hpp"

#include <algorithm>
#include <functional>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// Of handlers that are one word, those with equal words do the same.
std::uint64_t handler_of(const slot& s) noexcept {
    if (s.owner == nullptr || (s.ops->traits & handler_is_word) == 0 || (s.shape & shape_guarded) != 0) {
        return 0;
    }
    const auto ops = reinterpret_cast<std::uintptr_t>(s.ops);
    const auto word = reinterpret_cast<std::uintptr_t>(s.list->entries[s.index].state);
    return (std::uint64_t{ops} * 0x9E3779B97F4A7C15U ^ word) | 1;
}

subscription_books copy_of(const ledger_core& ledger, const subscription_note& note) {
    const slot& s = *note.of;
    const code_site& site = ledger.subscribe_sites[note.site];
    const account& books = *ledger.accounts[site.channel];
    subscription_books copy;
    copy.number = note.number;
    copy.channel = books.sums.name;
    copy.subscriber = note.name != nullptr ? *note.name : "";
    copy.where = site.where;
    copy.stage = s.list->place_name;
    copy.address = note.address;
    copy.paused = (s.blocked & (block_paused | block_owner_paused)) != 0;
    copy.since_frame = note.since_frame;
    copy.since_time = note.since_time;
    copy.published_since = books.sums.published - note.published_before;
    copy.handler = handler_of(s);
    copy.turns = note.turns();
    copy.times = note.times != nullptr ? note.times->sum_up() : handler_times{};
    return copy;
}

publisher_books copy_of_publisher(const ledger_core& ledger, const code_site& site) {
    return {ledger.accounts[site.channel]->sums.name,
            site.who,
            site.where,
            site.count,
            site.unheard,
            site.vacant,
            site.first_frame,
            site.last_frame,
            site.frames};
}

void copy_subscribes(const ledger_core& ledger, books& copy) {
    std::vector<turn_counts> turns;
    std::vector<time_buckets> times;
    for (const code_site& site : ledger.subscribe_sites) {
        turns.push_back(site.turns);
        times.push_back(site.times);
    }
    for (const auto& [number, note] : ledger.notes) {
        turns[note->site].add(note->turns());
        if (note->times != nullptr) {
            times[note->site].add(*note->times);
        }
    }
    for (std::size_t i = 0; i < ledger.subscribe_sites.size(); ++i) {
        const code_site& site = ledger.subscribe_sites[i];
        subscribe_site_books one;
        one.channel = ledger.accounts[site.channel]->sums.name;
        one.subscriber = site.who;
        one.where = site.where;
        one.made = site.count;
        one.live = site.live;
        one.first_frame = site.first_frame;
        one.turns = turns[i];
        one.times = times[i].sum_up();
        one.past = site.past;
        one.past_every = ledger.past_every;
        copy.subscribes.push_back(std::move(one));
    }
}

void copy_subscriptions(const ledger_core& ledger, books& copy) {
    for (const auto& [number, note] : ledger.notes) {
        copy.subscriptions.push_back(copy_of(ledger, *note));
    }
    std::sort(copy.subscriptions.begin(), copy.subscriptions.end(),
              [](const auto& a, const auto& b) { return a.number < b.number; });
}

void copy_parties(const ledger_core& ledger, books& copy) {
    std::vector<const party_note*> lost;
    for (const auto& [number, note] : ledger.parties) {
        if (note.sums.lost != 0 && !note.ended) {
            lost.push_back(&note);
        }
    }
    std::sort(lost.begin(), lost.end(), [](const auto* a, const auto* b) { return a->number < b->number; });
    for (const party_note* note : lost) {
        copy.parties.push_back(note->sums);
    }
}

void copy_waiting(books& copy) {
    for (const sequence_report& one : list_sequences()) {
        waiting_books waits;
        waits.subscriber = one.subscriber;
        waits.started = {one.started_at.file_name(), one.started_at.line()};
        waits.waits_at = {one.waits_at.file_name(), one.waits_at.line()};
        waits.waits_for = one.waits_for;
        waits.source_gone = one.source_gone;
        waits.channel = one.channel;
        waits.since_frame = one.since_frame;
        copy.waiting.push_back(std::move(waits));
    }
}

void copy_left_waiting(books& copy) {
    for (const left_waiting& one : list_left_waiting()) {
        copy.left_waiting.push_back({one.name,
                                     one.is_inbox,
                                     one.payloads,
                                     {one.posted.file_name(), one.posted.line()},
                                     one.since_frame,
                                     one.was_called});
    }
}

void copy_systems(books& copy) {
    for (system_report& one : list_systems()) {
        system_books& made = copy.systems.emplace_back();
        made.name = std::move(one.name);
        for (system_report::need& need : one.needs) {
            made.needs.push_back({std::move(need.name), need.changes});
        }
        made.teams = std::move(one.teams);
        made.lent = one.lent;
        made.updated = one.updated;
        made.paused = one.paused;
        made.wave = static_cast<std::uint32_t>(one.wave);
    }
}

void copy_phases(books& copy) {
    for (phases_report& one : list_phases()) {
        phases_books& made = copy.phases.emplace_back();
        made.name = std::move(one.name);
        made.now = std::move(one.now);
        made.phases = std::move(one.phases);
        for (auto& [from, to] : one.allowed) {
            made.allowed.push_back({std::move(from), std::move(to)});
        }
        for (phases_report::step& step : one.history) {
            made.history.push_back({std::move(step.from),
                                    std::move(step.to),
                                    step.frame,
                                    step.cause,
                                    {step.where.file_name(), step.where.line()}});
        }
        made.moves = one.moves;
        made.refused = one.refused;
    }
}

void copy_circles(const ledger_core& ledger, books& copy) {
    for (const circle_note& note : ledger.circles) {
        circle_books one;
        for (const std::uint32_t channel : note.channels) {
            one.channels.push_back(ledger.accounts[channel]->sums.name);
        }
        one.channels.push_back(one.channels.front());
        one.where = ledger.publish_sites[note.site].where;
        one.times = note.times;
        one.longest = note.longest;
        one.first_frame = note.first_frame;
        copy.circles.push_back(std::move(one));
    }
}

void copy_orders(const ledger_core& ledger, books& copy) {
    for (const order_note& note : ledger.orders) {
        const code_site& first = ledger.subscribe_sites[note.first];
        const code_site& second = ledger.subscribe_sites[note.second];
        copy.orders.push_back({ledger.accounts[note.channel]->sums.name, first.where, second.where, first.who,
                               second.who, note.how,
                               note.how == order_matter::both_publish ? ledger.accounts[note.on]->sums.name : "",
                               note.times, note.first_frame});
    }
}

} // namespace
} // namespace detail

books ledger::read() const {
    const detail::ledger_core& core = *core_;
    books copy;
    copy.left_out = core.left_out;
    copy.frames = core.frame;
    copy.time = core.time;
    copy.events = core.newest_id;
    for (const auto& account : core.accounts) {
        copy.channels.push_back(account->sums);
        copy.channels.back().most_in_frame = detail::most_in_frame(*account);
    }
    for (const detail::code_site& site : core.publish_sites) {
        copy.publishers.push_back(detail::copy_of_publisher(core, site));
    }
    if (working()) {
        detail::copy_subscribes(core, copy);
        detail::copy_subscriptions(core, copy);
        detail::copy_parties(core, copy);
        detail::copy_waiting(copy);
        detail::copy_left_waiting(copy);
        detail::copy_systems(copy);
        detail::copy_phases(copy);
    }
    detail::copy_circles(core, copy);
    detail::copy_orders(core, copy);
    return copy;
}

std::vector<chain_link> ledger::chain(event_id id) const {
    std::vector<chain_link> links;
    detail::ledger_core& core = *core_;
    for (const detail::event_memory* m = core.find(id); m != nullptr; m = core.find(m->cause)) {
        const detail::code_site& site = core.publish_sites[m->site];
        chain_link link;
        link.id = m->id;
        link.channel = core.accounts[m->channel]->sums.name;
        link.publisher = site.who;
        link.where = site.where;
        link.frame = m->frame;
        link.is_post = m->is_post;
        if (const std::uint32_t by = detail::site_of(core, m->handling); by != UINT32_MAX) {
            link.in_handler = core.subscribe_sites[by].who;
            link.handler = core.subscribe_sites[by].where;
            if (const auto note = core.notes.find(m->handling);
                note != core.notes.end() && note->second->name != nullptr) {
                link.in_handler = *note->second->name;
            }
        }
        links.push_back(std::move(link));
    }
    std::reverse(links.begin(), links.end());
    return links;
}

event_id ledger::latest_on(std::string_view channel) const noexcept {
    event_id newest = 0;
    for (const auto& account : core_->accounts) {
        if (account->sums.name == channel) {
            newest = std::max(newest, account->newest_event);
        }
    }
    return newest;
}

WIRED_COURIER_NAMESPACE_END
