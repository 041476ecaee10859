// SPDX-License-Identifier: MIT
#include "ferry/outward/outward_message.hpp"

#include "data/base64.hpp"
#include "data/cbor_writer.hpp"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <limits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

using nlohmann::json;

std::string text_at(const json& from, const char* key) {
    const auto found = from.find(key);
    return found != from.end() && found->is_string() ? found->get<std::string>() : std::string();
}

} // namespace

std::string line_of(const outward_message& one) {
    json line{{"specversion", "1.0"},
              {"id", one.head.id},
              {"source", one.head.source},
              {"type", one.head.type},
              {"datacontenttype", one.head.content_type},
              {"mqtttopic", one.head.topic},
              {"mqttretain", one.head.is_retained}};
    const auto put = [&](const char* key, const std::string& value) {
        if (!value.empty()) {
            line[key] = value;
        }
    };
    put("traceparent", one.head.traceparent);
    put("mqttresponse", one.head.response_topic);
    put("mqttcorrelation", to_base64(one.head.correlation));
    if (one.head.content_type == json_content) {
        line["data"] = json::parse(one.payload, nullptr, false);
    } else {
        line["data_base64"] = to_base64(one.payload);
    }
    return line.dump(-1, ' ', false, json::error_handler_t::replace) + '\n';
}

std::optional<outward_message> read_line(std::string_view line) {
    const json from = json::parse(line, nullptr, false);
    if (!from.is_object() || text_at(from, "specversion") != "1.0") {
        return std::nullopt;
    }
    outward_message made;
    made.head.topic = text_at(from, "mqtttopic");
    made.head.id = text_at(from, "id");
    made.head.source = text_at(from, "source");
    made.head.type = text_at(from, "type");
    made.head.content_type = text_at(from, "datacontenttype");
    made.head.traceparent = text_at(from, "traceparent");
    made.head.response_topic = text_at(from, "mqttresponse");
    made.head.is_retained = from.value("mqttretain", json(false)) == json(true);
    made.head.qos = 1;
    made.outlives_process = true;
    made.is_from_file = true;
    const auto correlation = from_base64(text_at(from, "mqttcorrelation"));
    if (!wrong_with_topic(made.head.topic).empty() || !read_crossing_id(made.head.id) || !correlation) {
        return std::nullopt;
    }
    made.head.correlation = *correlation;
    if (const auto data = from.find("data"); data != from.end()) {
        made.payload = data->dump(-1, ' ', false, json::error_handler_t::replace);
    } else if (auto bytes = from_base64(text_at(from, "data_base64"))) {
        made.payload = std::move(*bytes);
    } else {
        return std::nullopt;
    }
    return made;
}

message_maker::message_maker(std::string process, std::uint64_t run, std::size_t largest, losses& lost)
    : process_(std::move(process)), run_(run), run_text_(run_text(run)), largest_(largest), lost_(lost) {}

void message_maker::make(const chunk& packed, const route_source& more,
                         const std::function<void(outward_message&&)>& to) {
    packed_reader in(packed.data(), packed.data() + packed.size());
    while (!in.empty()) {
        packed_reader ahead = in;
        if (ahead.take<std::uint32_t>() >= routes_.size()) {
            auto fresh = more(routes_.size());
            routes_.insert(routes_.end(), fresh.begin(), fresh.end());
        }
        if (auto made = next(in)) {
            to(std::move(*made));
        }
    }
}

std::optional<outward_message> message_maker::next(packed_reader& in) {
    outward_route& route = *routes_[in.take<std::uint32_t>()];
    const auto event = in.take<std::uint64_t>();
    const auto trace = in.take<trace_id>();
    const std::string_view address = in.take_text();
    const std::string_view reply_topic = in.take_text();
    const std::string_view correlation = in.take_text();
    const auto size = in.take<std::uint32_t>();
    packed_reader fields(in.take_bytes(size), nullptr);

    outward_message made;
    const bool is_answer = route.kind == crossing_kind::answer;
    const crossing_kind kind = is_answer && size == 0 ? crossing_kind::no_answer : route.kind;
    made.head.topic = is_answer ? std::string(reply_topic) : route.topic.with(address);
    if (made.head.topic.size() > std::numeric_limits<std::uint16_t>::max()) {
        lost_.add(ferry_code::bad_address, route.topic.before, 1, "the address is too long for a topic");
        return std::nullopt;
    }
    if (kind != crossing_kind::no_answer) {
        made.payload = written(fields, route);
    }
    if (made.payload.size() > largest_) {
        lost_.add(ferry_code::too_large, made.head.topic, 1, fmt::format("{} bytes", made.payload.size()));
        return std::nullopt;
    }
    made.head.content_type = route.encoding == encoding::cbor ? cbor_content : json_content;
    const bool is_gapless = route.kind == crossing_kind::payload && !route.topic.has_address && !route.is_kept;
    made.head.id = crossing_id{run_text_, is_gapless, route.number, ++route.newest, event}.text();
    made.head.source = process_;
    made.head.type = type_of(kind);
    if (trace.is_set()) {
        made.head.traceparent = traceparent_of(trace, run_, event);
    }
    made.head.correlation = correlation;
    if (!is_answer) {
        made.head.response_topic = reply_topic;
    }
    made.head.is_retained = route.is_kept;
    made.head.qos = route.guarantee == guarantee::at_most_once ? 0 : 1;
    if (route.kind == crossing_kind::question) {
        made.until = std::chrono::steady_clock::now() + route.answer_limit;
    }
    made.outlives_process = route.kind == crossing_kind::payload && made.head.qos != 0;
    made.only_latest = route.kind == crossing_kind::value;
    return made;
}

std::string message_maker::written(packed_reader& in, const outward_route& route) {
    if (route.encoding == encoding::cbor) {
        return cbor_of(in, route.fields);
    }
    text_.clear();
    write_fields(text_, in, route.fields);
    return {text_.data(), text_.size()};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
