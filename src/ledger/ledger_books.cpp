// SPDX-License-Identifier: MIT
// A ledger's books, copied out.
#include <courier/accept_finding.hpp>
#include <courier/detail/later/waiting_places.hpp>
#include <courier/keep_current.hpp>
#include <courier/ledger.hpp>
#include <courier/phases.hpp>
#include <courier/sequence.hpp>
#include <courier/systems.hpp>

#include "ledger/ledger_pages.hpp"
#include "ledger/noted.hpp"

#include <algorithm>
#include <functional>
#include <set>
#include <string>
#include <string_view>
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
    std::vector<handler_time_counts> times;
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

code_line line_of(std::source_location where) {
    return where.line() != 0 ? code_line{where.file_name(), where.line()} : code_line{};
}

waiting_books copy_of(const sequence_report& one) {
    return {one.subscriber, line_of(one.started_at), line_of(one.waits_at), one.waits_for,
            one.channel,    one.source_gone,         one.since_frame,       one.ended_frame};
}

left_waiting_books copy_of(const left_waiting& one) {
    return {one.name, one.kind, one.payloads, line_of(one.posted), one.since_frame, one.was_called, one.ended_frame};
}

system_books copy_of(const system_report& one) {
    system_books made;
    made.name = one.name;
    for (const system_report::need& need : one.needs) {
        made.needs.push_back({need.name, need.changes});
    }
    made.teams = one.teams;
    made.lent = one.lent;
    made.updated = one.updated;
    made.paused = one.paused;
    made.wave = static_cast<std::uint32_t>(one.wave);
    return made;
}

phases_books copy_of(const phases_report& one) {
    phases_books made;
    made.name = one.name;
    made.now = one.now;
    made.phases = one.phases;
    for (const auto& [from, to] : one.allowed) {
        made.allowed.push_back({from, to});
    }
    for (const phases_report::step& step : one.history) {
        made.history.push_back({step.from, step.to, step.frame, step.cause, line_of(step.where)});
    }
    made.moves = one.moves;
    made.refused = one.refused;
    return made;
}

void copy_idle_refreshers(books& to) {
    for (const refresher_report& one : list_refreshers()) {
        if (one.runs != 0 && one.depends_on.empty()) {
            to.idle_refreshers.push_back({one.subscriber, line_of(one.where)});
        }
    }
}

/// What there is, and what ended before and is not there again.
template <class Report, class Book>
void copy_named(const std::vector<Report>& there, const last_reports& last, std::vector<Book>& to) {
    std::set<std::string_view> names;
    for (const Report& one : there) {
        to.push_back(copy_of(one));
        names.insert(one.name);
    }
    last.each<Report>([&](const Report& one) {
        if (!names.contains(one.name)) {
            to.push_back(copy_of(one));
            to.back().ended = true;
        }
    });
}

/// Those that ended come first.
template <class Report, class Book>
void copy_waiting(const std::vector<Report>& there, const last_reports& last, std::vector<Book>& to) {
    last.each<Report>([&](const Report& one) { to.push_back(copy_of(one)); });
    for (const Report& one : there) {
        to.push_back(copy_of(one));
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
        copy.orders.push_back({ledger.accounts[note.channel]->sums.name, first.where, second.where, note.first_name,
                               note.second_name, note.how,
                               note.how == order_matter::both_publish ? ledger.accounts[note.on]->sums.name : "",
                               note.times, note.first_frame});
    }
}

} // namespace

void copy_state(const ledger_core& ledger, books& to) {
    copy_waiting(list_sequences(), ledger.last, to.waiting);
    copy_waiting(list_left_waiting(), ledger.last, to.left_waiting);
    copy_idle_refreshers(to);
    copy_named(list_systems(), ledger.last, to.systems);
    copy_named(list_phases(), ledger.last, to.phases);
    copy_circles(ledger, to);
    copy_orders(ledger, to);
    to.accepted = ledger.accepted;
}

} // namespace detail

void accept_finding(const acceptance& what, std::source_location where) {
    constexpr std::size_t most = 4096;
    if (!detail::overseen()) {
        return;
    }
    std::vector<accepted_finding>& all = detail::this_oversight.ledger->accepted;
    const std::string_view code = id_of(what.code);
    const bool is_known = std::any_of(all.begin(), all.end(), [&](const accepted_finding& one) {
        return one.code == code && one.channel == what.channel && one.party == what.party;
    });
    if (!is_known && all.size() < most) {
        all.push_back({std::string(code), what.channel, what.party, what.reason, detail::line_of(where)});
    }
}

books ledger::read() const {
    const detail::ledger_core& core = *core_;
    books copy;
    copy.left_out = core.left_out;
    copy.frames = core.frame;
    copy.time = core.time;
    copy.events = core.newest_id;
    for (const auto& account : core.accounts) {
        copy.channels.push_back(account->sums);
        copy.channels.back().max_in_frame = detail::max_in_frame(*account);
    }
    for (const detail::code_site& site : core.publish_sites) {
        copy.publishers.push_back(detail::copy_of_publisher(core, site));
    }
    if (working()) {
        detail::copy_subscribes(core, copy);
        detail::copy_subscriptions(core, copy);
        detail::copy_parties(core, copy);
        detail::copy_state(core, copy);
    }
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
