// SPDX-License-Identifier: MIT
#include "ferry/inward/message_reader.hpp"

#include "data/cbor_reader.hpp"
#include "data/json_reader.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::string_view no_answer_type = "wired-courier.no-answer";

/// What came, as its sender must have declared it: "barge: a text, crates: a number".
std::string version_sent(const nlohmann::json& payload) {
    if (!payload.is_object()) {
        return "no object";
    }
    std::string made;
    for (const auto& [key, value] : payload.items()) {
        if (made.size() > 200) {
            return made + ", ...";
        }
        made += fmt::format("{}{}: {}", made.empty() ? "" : ", ", key.substr(0, 64), kind_in_words(value));
    }
    return made.empty() ? "no fields" : made;
}

std::string first_of(const std::vector<json_fault>& wrong) {
    const json_fault& first = wrong.front();
    return fmt::format("'{}' {}{}", first.where, first.what,
                       wrong.size() > 1 ? fmt::format(" (and {} more)", wrong.size() - 1) : "");
}

/// A filter may well be for more than payloads.
bool is_for(const inward_route& route, std::string_view type) {
    const bool is_internal = type == "wired-courier.process" || type == "wired-courier.question" ||
                             type == "wired-courier.answer" || type == no_answer_type;
    return !is_internal || route.takes == type || (route.takes == "wired-courier.answer" && type == no_answer_type);
}

} // namespace

void message_reader::add(std::shared_ptr<inward_route> route) {
    for (const auto& one : entrances_) {
        if (one->route->is_as(*route)) {
            one->route = std::move(route);
            return;
        }
    }
    const bool shares = !route->share_name.empty();
    entrances_.push_back(
        std::make_unique<entrance>(entrance{std::move(route), seen_numbers(options_.max_senders, shares)}));
    entrance* const made = entrances_.back().get();
    if (made->route->is_exact) {
        exact_.emplace(made->route->filter, made);
    } else {
        wide_.push_back(made);
    }
}

void message_reader::read(const crossing_head& head, std::string_view payload,
                          const std::function<void(landed_message&&, bool promised)>& to) {
    const auto [first, past] = exact_.equal_range(head.topic);
    bool is_expected = first != past;
    for (auto one = first; one != past; ++one) {
        enter(*one->second, head, payload, to);
    }
    for (entrance* const one : wide_) {
        if (matches(one->route->filter, head.topic)) {
            is_expected = true;
            enter(*one, head, payload, to);
        }
    }
    unexpected_.fetch_add(is_expected ? 0 : 1, std::memory_order_relaxed);
}

bool message_reader::has_form(const crossing_head& head, std::string_view payload) const {
    const auto refuse = [&](ferry_code why, std::string_view what) {
        lost_.add(why, head.topic, 1, what);
        return false;
    };
    if (payload.size() > options_.largest_payload) {
        return refuse(ferry_code::too_large, fmt::format("{} bytes", payload.size()));
    }
    const auto has = [](const std::string& text) { return !text.empty() && text.size() <= 256; };
    if (!head.is_event || !has(head.id) || !has(head.type) || !has(head.source)) {
        return refuse(ferry_code::bad_message, "is not a CloudEvent: it lacks id, source, type (1 to 256 bytes "
                                               "each) and specversion 1.0 as user properties");
    }
    const bool is_empty_answer = head.type == no_answer_type;
    if (!is_empty_answer && head.content_type != json_content && head.content_type != cbor_content) {
        return refuse(ferry_code::bad_message, "is neither application/json nor application/cbor");
    }
    return true;
}

// Once what is wrong with it is told, it counts as having come.
bool message_reader::is_due(entrance& by, const crossing_head& head, const std::optional<crossing_id>& id) {
    const inward_route& route = *by.route;
    seen_numbers::finding found;
    if (id) {
        found = by.seen.note(head.source, *id);
    } else if (route.guarantee == guarantee::exactly_once) {
        found.is_new = by.seen.note(head.source, head.id);
    }
    if (found.missing != 0 && route.is_exact) {
        lost_.add(ferry_code::missing, head.topic, found.missing, fmt::format("from {}", head.source));
    }
    if (!found.is_new && route.guarantee == guarantee::exactly_once) {
        again_.fetch_add(1, std::memory_order_relaxed);
        return false;
    }
    return true;
}

bool message_reader::fill(const inward_route& route, const crossing_head& head, std::string_view payload,
                          void* object) const {
    const nlohmann::json read = head.content_type == cbor_content ? parsed_cbor(payload) : parsed_json(payload);
    if (read.is_discarded()) {
        lost_.add(ferry_code::bad_message, head.topic, 1, fmt::format("not {}", head.content_type));
        return false;
    }
    const std::vector<json_fault> wrong = read_fields(
        read, route.door->fields, object, {.missing = missing_fields::kept, .unknown = unknown_fields::passed_over});
    if (wrong.empty()) {
        return true;
    }
    lost_.add(ferry_code::does_not_fit, head.topic, 1,
              fmt::format("{}; theirs, from {}: {}; ours: {}", first_of(wrong), head.source, version_sent(read),
                          route.version));
    return false;
}

void message_reader::enter(entrance& by, const crossing_head& head, std::string_view payload,
                           const std::function<void(landed_message&&, bool promised)>& to) {
    const inward_route& route = *by.route;
    if ((payload.empty() && head.type != no_answer_type) || !is_for(route, head.type)) {
        return; // what the broker kept is kept no longer; or it is what ferries say to each other
    }
    if (!has_form(head, payload)) {
        return;
    }
    landed_message made;
    if (route.has_address) {
        const std::optional<std::string> address = address_in(route.pattern.level(head.topic));
        if (!address || !route.door->takes_address(*address)) {
            lost_.add(ferry_code::bad_address, head.topic, 1,
                      fmt::format("'{}' is none of '{}'", route.pattern.level(head.topic), route.door->name));
            return;
        }
        made.address = *address;
    }
    const std::optional<crossing_id> id = read_crossing_id(head.id);
    if (!is_due(by, head, id)) {
        return;
    }
    if (head.type != no_answer_type) {
        made.payload = made_payload(*route.door);
        if (!fill(route, head, payload, made.payload.get())) {
            return;
        }
    }
    made.route = by.route;
    made.topic = head.topic;
    made.process = head.source;
    if (id) {
        made.run = id->run;
        made.event = id->event;
    }
    made.trace = trace_in(head.traceparent);
    made.response_topic = head.response_topic;
    made.correlation = head.correlation;
    to(std::move(made), route.qos() != 0 && head.qos != 0);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
