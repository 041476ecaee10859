// SPDX-License-Identifier: MIT
#include "recording/write/event_packer.hpp"

#include "data/json_writer.hpp"
#include "data/pack_value.hpp"
#include "data/process_names.hpp"
#include "recording/write/pack_record.hpp"

#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Record>
void event_packer::pack(const Record& what) noexcept {
    pack_whole([&] { pack_record(now_, what); });
}

std::size_t event_packer::begin(const payload_kind* kind, const void* payload) {
    const std::size_t at = kept_.size();
    pack_whole([&] {
        unless_done taken_back([&] { kept_.bytes().resize(at); });
        put_payload(kept_, kind, payload);
        taken_back.done();
    });
    return at;
}

void event_packer::published(const event_facts& what) {
    if (is_behind()) {
        ++skipped_;
        kept_.bytes().resize(what.kept);
        return;
    }
    const std::uint64_t skipped = skipped_;
    pack_whole([&] { pack_event(what); });
    kept_.bytes().resize(what.kept);
    if (skipped_ == skipped) {
        ++recorded_;
        event_is_packed();
    }
}

template <class Facts>
void event_packer::fill(made_record& made, const Facts& what) {
    know_site(what.site);
    made.id = what.id;
    made.cause = what.cause;
    made.on.number = what.channel;
    made.where.number = what.site;
    made.in_handler = what.handling;
}

void event_packer::pack_event(const event_facts& what) {
    event_record made;
    fill(made, what);
    made.to = what.to;
    made.outside = what.outside;
    if (what.from != nullptr) {
        made.from = what.from->process;
        made.from_run = what.from->run;
        made.from_event = what.from->event;
    }
    made.retained = what.retained;
    made.refused = (what.flags & receipt_refused) != 0;
    made.vacant = (what.flags & receipt_vacant) != 0;
    made.closed = (what.flags & receipt_closed) != 0;
    if ((what.flags & receipt_stopped) != 0) {
        made.stopped = what.stopped_by;
    }
    made.turns = turn_list(what.turns, what.turn_count);
    made.payload = payload_from(what.kept);
    pack_record(now_, made);
}

// One that could not be packed for want of memory is not known.
packed_payload event_packer::payload_from(std::size_t kept) {
    const std::size_t from = std::min(kept, kept_.size());
    return {kept_.bytes().data() + from, kept_.size() - from};
}

void event_packer::posted(const post_facts& what) {
    if (is_behind()) {
        ++skipped_;
        return;
    }
    const std::uint64_t skipped = skipped_;
    const std::size_t kept = begin(what.kind, what.payload); // which may have to say what its fields are
    pack_whole([&] { pack_post(what, kept); });
    kept_.bytes().resize(kept);
    if (skipped_ == skipped) {
        ++recorded_;
        event_is_packed();
    }
}

void event_packer::pack_post(const post_facts& what, std::size_t kept) {
    post_record made;
    fill(made, what);
    made.outbox = what.outbox;
    if (what.to.address != nullptr) {
        address_.clear();
        what.to.write(what.to.address, address_);
        made.to = address_;
    }
    made.combined = what.outcome == posting_outcome::combined;
    made.turned_away = what.outcome == posting_outcome::turned_away;
    made.outside = what.outside;
    made.payload = payload_from(kept);
    pack_record(now_, made);
}

void event_packer::channel_opened(const account& which) {
    const auto& sums = which.sums;
    pack(channel_record{{which.number, sums.name}, sums.payload, sums.hub, sums.is_query, sums.is_owned});
}

void event_packer::channel_closed(const account& which) {
    pack(closed_record{{{which.number, {}}}});
}

subscription_line event_packer::line_of(const subscription_note& which) const {
    return {{{of_->subscribe_sites[which.site].channel, {}}}, which.number};
}

void event_packer::subscribed(const subscription_note& which) {
    pack_whole([&] {
        const slot& s = *which.of;
        const std::string at = of_->subscribe_sites[which.site].where.text();
        subscribed_record made{line_of(which)};
        made.party = which.party;
        made.name = which.name != nullptr ? std::string_view{*which.name} : std::string_view{};
        made.at = at;
        made.stage = s.list->place_name;
        made.to = which.address;
        made.is_paused = (s.blocked & (block_paused | block_owner_paused)) != 0;
        made.handler = handler_number(which);
        pack_record(now_, made);
    });
}

void event_packer::ended(const subscription_note& which, bool channel_closed) {
    pack(ended_record{line_of(which), channel_closed});
    forget_handler(which.number);
}

void event_packer::paused(const subscription_note& which, bool is_paused) {
    if (is_paused) {
        pack(paused_record{line_of(which)});
    } else {
        pack(resumed_record{line_of(which)});
    }
}

void event_packer::party_ended(std::uint32_t number) {
    pack(party_ended_record{number});
}

void event_packer::know_site(std::uint32_t site) {
    while (known_sites_ <= site) {
        const code_site& next = of_->publish_sites[known_sites_];
        const std::string at = next.where.text();
        pack_record(now_, site_record{known_sites_, at, next.who});
        ++known_sites_;
    }
}

std::uint32_t event_packer::schema_of(const payload_kind* kind) {
    if (kind == newest_kind_) [[likely]] {
        return newest_schema_;
    }
    newest_kind_ = kind;
    return newest_schema_ = find_schema(kind);
}

std::uint32_t event_packer::find_schema(const payload_kind* kind) {
    if (kind == nullptr || (kind->fields == nullptr && !kind->is_empty)) {
        return no_schema;
    }
    if (kind->is_empty) {
        return empty_schema;
    }
    const auto [found, is_new] = schemas_.emplace(kind->fields, newest_number_);
    if (is_new) {
        ++newest_number_;
        pack_record(now_, schema_record{found->second, field_names_of(*kind->fields)});
    }
    return found->second;
}

void event_packer::put_payload(packed_bytes& to, const payload_kind* kind, const void* payload) {
    const std::uint32_t schema = schema_of(kind);
    to.put(schema);
    if (schema < empty_schema) {
        pack_fields(*kind->fields, kind->subject != nullptr ? kind->subject(payload) : payload, to);
    }
}

std::uint32_t event_packer::handler_number(const subscription_note& which) {
    const slot& s = *which.of;
    if (s.owner == nullptr || (s.ops->traits & handler_is_word) == 0 || (s.shape & shape_guarded) != 0) {
        return 0;
    }
    const auto key = std::pair<const void*, const void*>(s.ops, s.list->entries[s.index].state);
    const auto found = handlers_.try_emplace(key).first;
    told_handler& told = found->second;
    told.number = told.number != 0 ? told.number : ++newest_handler_;
    told.subscriptions += handler_of_.emplace(which.number, found).second ? 1 : 0;
    return told.number;
}

void event_packer::forget_handler(std::uint32_t subscription) noexcept {
    if (const auto found = handler_of_.find(subscription); found != handler_of_.end()) {
        if (--found->second->second.subscriptions == 0) {
            handlers_.erase(found->second);
        }
        handler_of_.erase(found);
    }
}

// As soon as there are any, since one who is killed says nothing more.
void event_packer::put_processes() {
    if (told_processes_ == known_process_count()) {
        return;
    }
    const std::vector<process_name> all = known_processes();
    for (; told_processes_ < all.size(); ++told_processes_) {
        pack_record(now_, process_record{all[told_processes_].process, all[told_processes_].run});
    }
}

// What there is, apart from events.
void event_packer::put_state() {
    books now;
    copy_state(*of_, now);
    const auto count_from_here = [this](std::uint64_t& frame) { frame -= std::min(frame, first_frame_); };
    const auto since_here = [&](auto& all) {
        for (auto& one : all) {
            count_from_here(one.since_frame);
            if (one.ended_frame) {
                count_from_here(*one.ended_frame);
            }
        }
    };
    since_here(now.waiting);
    since_here(now.left_waiting);
    for (phases_books& one : now.phases) {
        for (phases_books::step& step : one.history) {
            count_from_here(step.frame);
        }
    }
    for (circle_books& one : now.circles) {
        count_from_here(one.first_frame);
    }
    for (order_books& one : now.orders) {
        count_from_here(one.first_frame);
    }
    pack_record(now_, waiting_record{std::move(now.waiting), std::move(now.left_waiting)});
    if (!now.systems.empty()) {
        pack_record(now_, systems_record{std::move(now.systems)});
    }
    if (!now.phases.empty()) {
        pack_record(now_, phases_record{std::move(now.phases)});
    }
    if (!now.idle_refreshers.empty() || told_idle_) {
        told_idle_ = true; // so that one who has read something since is told of, too
        pack_record(now_, refreshers_record{std::move(now.idle_refreshers)});
    }
    if (!now.circles.empty()) {
        pack_record(now_, circles_record{std::move(now.circles)});
    }
    if (!now.orders.empty()) {
        pack_record(now_, orders_record{std::move(now.orders)});
    }
    if (!now.accepted.empty()) {
        pack_record(now_, accepted_record{std::move(now.accepted)});
    }
}

void event_packer::pack_state() {
    pack_whole([this] { put_state(); });
}

void event_packer::put_skipped() {
    if (skipped_ != told_skipped_) {
        pack_record(now_, skipped_record{{skipped_ - told_skipped_}});
        told_skipped_ = skipped_;
    }
}

void event_packer::frame(std::uint64_t number, std::int64_t time) {
    if (!is_behind()) {
        pack_whole([this] { put_skipped(); });
    }
    pack_whole([this] { put_processes(); });
    pack(frame_record{time});
    if (const std::uint64_t every = state_every(); number % every == every - 1) {
        pack_state();
    }
    frame_is_packed();
}

void event_packer::record_from(ledger_core& of, const std::map<std::string, std::string>& facts) {
    of_ = &of;
    first_frame_ = of.frame;
    recording_record made;
    made.name = of.name;
    made.facts.assign(facts.begin(), facts.end());
    pack_record(now_, made);
    put_processes();
    add_taker(of, *this);
    for (const auto& account : of.accounts) {
        if (takes(*account)) {
            channel_opened(*account);
        }
    }
    std::vector<std::uint32_t> numbers;
    numbers.reserve(of.notes.size());
    for (const auto& [number, note] : of.notes) {
        numbers.push_back(number);
    }
    std::sort(numbers.begin(), numbers.end());
    for (const std::uint32_t number : numbers) {
        const subscription_note& note = *of.notes.at(number);
        if (takes(*note.of->list->core->books)) {
            subscribed(note);
        }
    }
}

void event_packer::end() noexcept {
    if (of_ == nullptr) {
        return;
    }
    pack_state();
    pack_whole([this] { put_skipped(); });
    pack(finished_record{{recorded_}});
    remove_taker(*of_, *this);
    of_ = nullptr;
    if_memory_allows([this] { all_is_packed(); });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
