#include "recording/write/event_packer.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/fault.hpp>
#include <courier/sequence.hpp>

#include <algorithm>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

void put_schema(packed_bytes& to, const field_table& table, int depth = 0) {
    to.put(static_cast<std::uint32_t>(table.entries.size()));
    for (const field_entry& entry : table.entries) {
        to.put_text(entry.name);
        const bool goes_on = entry.inside != nullptr && depth < 16; // a struct may hold a list of its own kind
        to.put(goes_on);
        if (goes_on) {
            put_schema(to, *entry.inside, depth + 1);
        }
    }
}

std::string line_of(std::source_location where) {
    return code_line{where.file_name(), where.line()}.text();
}

std::uint8_t flags_of(const event_facts& what) noexcept {
    std::uint32_t flags = 0;
    flags |= (what.flags & receipt_refused) != 0 ? std::uint32_t{flag_refused} : 0U;
    flags |= (what.flags & receipt_vacant) != 0 ? std::uint32_t{flag_vacant} : 0U;
    flags |= (what.flags & receipt_stopped) != 0 ? std::uint32_t{flag_stopped} : 0U;
    flags |= (what.flags & receipt_closed) != 0 ? std::uint32_t{flag_closed} : 0U;
    flags |= what.outside ? std::uint32_t{flag_outside} : 0U;
    flags |= what.retained ? std::uint32_t{flag_retained} : 0U;
    return static_cast<std::uint8_t>(flags);
}

} // namespace

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

void event_packer::pack_event(const event_facts& what) {
    know_site(what.site);
    begin_record(record::event);
    now_.put(what.id);
    now_.put(what.cause);
    now_.put(what.handling);
    now_.put(what.channel);
    now_.put(what.site);
    now_.put(what.stopped_by);
    now_.put(flags_of(what));
    now_.put_text(what.to);
    now_.put(static_cast<std::uint32_t>(what.turn_count));
    for (std::size_t i = 0; i < what.turn_count; ++i) {
        now_.put(what.turns[i].subscription);
        now_.put(what.turns[i].took);
        now_.put(what.turns[i].why);
    }
    append_payload(what.kept);
}

// One that could not be packed for want of memory is not known.
void event_packer::append_payload(std::size_t kept) {
    if (kept < kept_.size()) {
        now_.append(kept_, kept);
    } else {
        now_.put(no_schema);
    }
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
    know_site(what.site);
    begin_record(record::post);
    now_.put(what.id);
    now_.put(what.cause);
    now_.put(what.handling);
    now_.put(what.channel);
    now_.put(what.site);
    now_.put(static_cast<std::uint8_t>(what.outcome));
    now_.put(what.outside);
    now_.put_text(what.outbox);
    put_address(what.to);
    append_payload(kept);
}

void event_packer::channel_opened(const account& which) {
    pack_whole([&] {
        begin_record(record::channel);
        now_.put(which.number);
        now_.put_text(which.sums.name);
        now_.put_text(which.sums.payload);
        now_.put_text(which.sums.hub);
        now_.put(which.sums.is_query);
    });
}

void event_packer::channel_closed(const account& which) {
    pack_whole([&] {
        begin_record(record::closed);
        now_.put(which.number);
    });
}

void event_packer::subscribed(const subscription_note& which) {
    pack_whole([&] {
        const slot& s = *which.of;
        const code_site& site = of_->subscribe_sites[which.site];
        begin_record(record::subscribed);
        now_.put(which.number);
        now_.put(site.channel);
        now_.put(which.party);
        now_.put_text(which.name != nullptr ? std::string_view{*which.name} : std::string_view{});
        now_.put_text(site.where.text());
        now_.put_text(s.list->place_name);
        now_.put_text(which.address);
        now_.put((s.blocked & (block_paused | block_owner_paused)) != 0);
        now_.put(handler_number(s));
    });
}

void event_packer::ended(const subscription_note& which, bool channel_closed) {
    pack_whole([&] {
        begin_record(record::ended);
        now_.put(which.number);
        now_.put(of_->subscribe_sites[which.site].channel);
        now_.put(channel_closed);
    });
}

void event_packer::paused(const subscription_note& which, bool is_paused) {
    pack_whole([&] {
        begin_record(record::paused);
        now_.put(which.number);
        now_.put(of_->subscribe_sites[which.site].channel);
        now_.put(is_paused);
    });
}

void event_packer::party_ended(std::uint32_t number) {
    pack_whole([&] {
        begin_record(record::party_ended);
        now_.put(number);
    });
}

void event_packer::put_address(const address_label& to) {
    if (to.address == nullptr) {
        now_.put(std::uint32_t{0});
        return;
    }
    address_.clear();
    to.write(to.address, address_);
    now_.put_text(address_);
}

void event_packer::know_site(std::uint32_t site) {
    while (known_sites_ <= site) [[unlikely]] {
        const code_site& next = of_->publish_sites[known_sites_];
        begin_record(record::site);
        now_.put(known_sites_++);
        now_.put_text(next.where.text());
        now_.put_text(next.who);
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
        begin_record(record::schema);
        now_.put(found->second);
        put_schema(now_, *kind->fields);
    }
    return found->second;
}

void event_packer::put_payload(packed_bytes& to, const payload_kind* kind, const void* payload) {
    const std::uint32_t schema = schema_of(kind);
    to.put(schema);
    if (schema < empty_schema) {
        kind->fields->pack(kind->subject != nullptr ? kind->subject(payload) : payload, to);
    }
}

std::uint32_t event_packer::handler_number(const slot& s) {
    if (s.owner == nullptr || (s.ops->traits & handler_is_word) == 0 || (s.shape & shape_guarded) != 0) {
        return 0;
    }
    const auto key = std::pair<const void*, const void*>(s.ops, s.list->entries[s.index].state);
    return handlers_.emplace(key, static_cast<std::uint32_t>(handlers_.size() + 1)).first->second;
}

void event_packer::put_waiting() {
    const std::vector<sequence_report> all = list_sequences();
    begin_record(record::waiting);
    now_.put(static_cast<std::uint32_t>(all.size()));
    for (const sequence_report& one : all) {
        now_.put_text(one.subscriber);
        now_.put_text(line_of(one.started_at));
        now_.put_text(line_of(one.waits_at));
        now_.put_text(one.waits_for);
        now_.put_text(one.channel);
        now_.put(one.since_frame - std::min(one.since_frame, first_frame_));
        now_.put(one.source_gone);
    }
}

void event_packer::put_skipped() {
    if (skipped_ != told_skipped_) {
        begin_record(record::skipped);
        now_.put(skipped_ - std::exchange(told_skipped_, skipped_));
    }
}

void event_packer::frame(std::uint64_t number, std::int64_t time) {
    if (!is_behind()) {
        pack_whole([this] { put_skipped(); });
    }
    pack_whole([&] {
        begin_record(record::frame);
        now_.put(number);
        now_.put(time);
    });
    constexpr std::uint64_t every = 256; // frames between two looks at what waits
    if (number % every == every - 1) {
        pack_whole([this] { put_waiting(); });
    }
    frame_is_packed();
}

void event_packer::record_from(ledger_core& of, const std::map<std::string, std::string>& facts) {
    of_ = &of;
    first_frame_ = of.frame;
    begin_record(record::began);
    now_.put_text(of.name);
    now_.put(static_cast<std::uint32_t>(facts.size()));
    for (const auto& [key, value] : facts) {
        now_.put_text(key);
        now_.put_text(value);
    }
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
    pack_whole([this] { put_waiting(); });
    pack_whole([this] { put_skipped(); });
    pack_whole([this] {
        begin_record(record::finished);
        now_.put(recorded_);
    });
    remove_taker(*of_, *this);
    of_ = nullptr;
    if_memory_allows([this] { all_is_packed(); });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
