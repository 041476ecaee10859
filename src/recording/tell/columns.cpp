#include <courier/recording/columns.hpp>

#include "data/described_json.hpp"
#include "recording/state_records.hpp"
#include "recording/tell/finding_json.hpp"

#include <courier/audit.hpp>

#include <nlohmann/json.hpp>

#include <bit>
#include <cstring>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using nlohmann::json;

static_assert(std::endian::native == std::endian::little, "courier: columns are written as they lie in memory");

/// Tags of RFC 8746 for little-endian arrays.
template <class T>
constexpr std::uint8_t tag_of() {
    if constexpr (std::is_same_v<T, double>) {
        return 86;
    } else {
        static_assert(std::is_unsigned_v<T> && sizeof(T) <= 4);
        return sizeof(T) == 1 ? 64 : sizeof(T) == 2 ? 69 : 70;
    }
}

template <class T>
json as_array(const std::vector<T>& all) {
    std::vector<std::uint8_t> bytes(all.size() * sizeof(T));
    if (!all.empty()) {
        std::memcpy(bytes.data(), all.data(), bytes.size());
    }
    return json::binary(std::move(bytes), tag_of<T>());
}

/// One number of each event.
template <class T, class Of>
json column(const run& of, Of value) {
    std::vector<T> all;
    all.reserve(of.events.size());
    for (const recorded_event& one : of.events) {
        all.push_back(static_cast<T>(value(one)));
    }
    return as_array(all);
}

/// As the page knows them.
std::uint16_t flags_of(const recorded_event& e) {
    const bool all[] = {e.is_post,  e.combined, e.turned_away, e.stopped, e.outside,
                        e.retained, e.refused,  e.vacant,      e.is_cut};
    unsigned flags = 0;
    for (unsigned i = 0; i < std::size(all); ++i) {
        flags |= all[i] ? 1U << i : 0U;
    }
    return static_cast<std::uint16_t>(flags);
}

/// Texts get numbers in the order in which events have them.
class used_texts {
public:
    explicit used_texts(const run& of) : of_(of) {}
    std::uint32_t number(std::uint32_t text) {
        if (numbers_.size() <= text) {
            numbers_.resize(text + 1, 0);
        }
        if (text != 0 && numbers_[text] == 0) {
            list_.push_back(of_.texts[text]);
            numbers_[text] = static_cast<std::uint32_t>(list_.size() - 1);
        }
        return numbers_[text];
    }
    [[nodiscard]] const json& list() const noexcept { return list_; }

private:
    const run& of_;
    std::vector<std::uint32_t> numbers_;
    json list_ = json::array({""});
};

json events_of(const run& of, used_texts& texts) {
    std::size_t heard = 0;
    std::size_t missed = 0;
    std::size_t took = 0;
    double payload = 0;
    return {{"id", column<double>(of, [](const auto& e) { return static_cast<double>(e.id); })},
            {"cause", column<double>(of, [](const auto& e) { return static_cast<double>(e.cause); })},
            {"frame", column<std::uint32_t>(of, [](const auto& e) { return e.frame; })},
            {"channel", column<std::uint32_t>(of, [](const auto& e) { return e.channel; })},
            {"at", column<std::uint32_t>(of, [&](const auto& e) { return texts.number(e.at); })},
            {"by", column<std::uint32_t>(of, [&](const auto& e) { return texts.number(e.by); })},
            {"to", column<std::uint32_t>(of, [&](const auto& e) { return texts.number(e.to); })},
            {"inHandler", column<std::uint32_t>(of, [](const auto& e) { return e.in_handler; })},
            {"outbox", column<std::uint32_t>(of, [&](const auto& e) { return texts.number(e.outbox); })},
            {"flags", column<std::uint16_t>(of, flags_of)},
            {"stoppedBy", column<std::uint32_t>(of, [](const auto& e) { return e.stopped_by; })},
            {"heardEnd", column<std::uint32_t>(of, [&](const auto& e) { return heard += e.heard; })},
            {"missedEnd", column<std::uint32_t>(of, [&](const auto& e) { return missed += e.missed; })},
            {"tookEnd", column<std::uint32_t>(of, [&](const auto& e) { return took += e.timed; })},
            {"payloadEnd", column<double>(of, [&](const auto& e) { return payload += e.payload_size; })}};
}

/// What belongs to events, in the order of these.
template <class T, class Of>
json listed(const run& of, Of each) {
    std::vector<T> all;
    for (const recorded_event& one : of.events) {
        each(one, all);
    }
    return as_array(all);
}

void put_lists(const run& of, json& to) {
    to["heard"] = listed<std::uint32_t>(of, [&](const auto& e, auto& all) {
        all.insert(all.end(), of.heard.begin() + e.first_heard, of.heard.begin() + e.first_heard + e.heard);
    });
    to["missed"] = listed<std::uint32_t>(of, [&](const auto& e, auto& all) {
        for (std::uint32_t i = 0; i < e.missed; ++i) {
            all.push_back(of.missed[e.first_missed + i].subscription);
        }
    });
    to["missedWhy"] = listed<std::uint8_t>(of, [&](const auto& e, auto& all) {
        for (std::uint32_t i = 0; i < e.missed; ++i) {
            all.push_back(static_cast<std::uint8_t>(of.missed[e.first_missed + i].why));
        }
    });
    to["tookBy"] = listed<std::uint32_t>(of, [&](const auto& e, auto& all) {
        for (std::uint32_t i = 0; i < e.timed; ++i) {
            all.push_back(of.took[e.first_took + i].subscription);
        }
    });
    to["tookNs"] = listed<std::uint32_t>(of, [&](const auto& e, auto& all) {
        for (std::uint32_t i = 0; i < e.timed; ++i) {
            all.push_back(of.took[e.first_took + i].ns);
        }
    });
    to["payloads"] = listed<std::uint8_t>(of, [&](const auto& e, auto& all) {
        const std::string_view text = of.payload_of(e);
        all.insert(all.end(), text.begin(), text.end());
    });
    json whys = json::array();
    for (std::size_t i = 0; i < turn_kinds; ++i) {
        whys.push_back(text_of(static_cast<turn>(i)));
    }
    to["whys"] = std::move(whys);
}

json channels_of(const run& of) {
    json all = json::array();
    for (const recorded_channel& one : of.channels) {
        all.push_back({{"name", one.name},
                       {"payload", one.payload},
                       {"hub", one.hub},
                       {"query", one.is_query},
                       {"open", one.open}});
    }
    return all;
}

json frame_or_null(std::uint32_t frame) {
    return frame == UINT32_MAX ? json() : json(frame);
}

json subscriptions_of(const run& of) {
    json all = json::array();
    for (const auto& [number, one] : of.subscriptions) {
        json pauses = json::array();
        for (const recorded_pause& pause : one.pauses) {
            pauses.push_back({pause.from, frame_or_null(pause.until)});
        }
        all.push_back({{"number", number},
                       {"channel", one.channel},
                       {"party", one.party},
                       {"name", one.name},
                       {"at", one.at},
                       {"stage", one.stage},
                       {"to", one.to},
                       {"since", one.since},
                       {"until", frame_or_null(one.until)},
                       {"after", one.after},
                       {"closed", one.closed},
                       {"pauses", std::move(pauses)}});
    }
    return all;
}

// These as the lines of a recording have them.
json origins_of(const run& of) {
    json all = json::array();
    for (const auto& [event, from] : of.origins) {
        all.push_back({{"id", event}, {"process", from.process}, {"run", from.run}, {"event", from.event}});
    }
    return all;
}

} // namespace

std::vector<std::uint8_t> columns_of(const run& of, const audit_options& options) {
    used_texts texts(of);
    json all{{"format", 1},
             {"file", of.file},
             {"source", of.source},
             {"facts", of.facts},
             {"frames", of.frames()},
             {"finished", of.finished},
             {"skipped", of.skipped},
             {"channels", channels_of(of)},
             {"subscriptions", subscriptions_of(of)},
             {"origins", origins_of(of)},
             {"systems", detail::described_json(of.systems)},
             {"phases", detail::described_json(of.phases)},
             {"waiting", detail::described_json(detail::waiting_record{of.waiting, of.left_waiting})},
             {"findings", detail::json_of(audit(books_of(of), options))}};
    all["events"] = events_of(of, texts);
    all["texts"] = texts.list();
    put_lists(of, all);
    std::vector<double> seconds;
    seconds.reserve(of.frame_times.size());
    for (const std::int64_t ns : of.frame_times) {
        seconds.push_back(static_cast<double>(ns) / 1e9);
    }
    all["frameTimes"] = as_array(seconds);
    return json::to_cbor(all);
}

WIRED_COURIER_NAMESPACE_END
