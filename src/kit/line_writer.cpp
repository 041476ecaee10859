#include "line_writer.hpp"

#include "json_text.hpp"

#include <courier/turn.hpp>

#include <algorithm>
#include <cmath>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

void line_writer::text(std::string_view plain) {
    if (is_plain(plain)) {
        to_->push_back('"');
        put(plain);
        to_->push_back('"');
    } else {
        put(quoted_json(plain));
    }
}

void line_writer::number(std::uint64_t plain) {
    const fmt::format_int digits(plain);
    to_->append(digits.data(), digits.data() + digits.size());
}

// Events have their own numbers as ids, other lines that of the line.
void line_writer::head(std::string_view type, std::string_view id_prefix, std::uint64_t id) {
    ++line_;
    put(R"({"specversion":"1.0","id":")");
    put(id_prefix);
    number(id_prefix.empty() ? id : line_);
    put(R"(","source":)");
    put(source_);
    put(R"(,"type":"wired-courier.)");
    put(type);
    put(R"(","frame":)");
    number(std::min<std::uint64_t>(frame_, INT32_MAX)); // as large as integers of CloudEvents are
}

void line_writer::subject(std::string_view quoted_text) {
    if (quoted_text == "\"\"") {
        return; // may be left out, and must not be empty
    }
    put(R"(,"subject":)");
    put(quoted_text);
}

void line_writer::end() {
    put("}\n");
}

void line_writer::began(packed_reader& in) {
    source_ = as_source(in.take_text());
    head("recording", "line-", 0);
    put(R"(,"data":{"format":)");
    number(recording_format);
    put(R"(,"facts":{)");
    const auto count = in.take<std::uint32_t>();
    for (std::uint32_t i = 0; i < count; ++i) {
        put(i == 0 ? "" : ",");
        text(in.take_text());
        put(":");
        text(in.take_text());
    }
    put("}}");
    end();
}

void line_writer::channel(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    if (channels_.size() <= number_of) {
        channels_.resize(number_of + 1);
    }
    channels_[number_of] = quoted_json(in.take_text());
    head("channel", "line-", 0);
    subject(channels_[number_of]);
    put(R"(,"data":{"payload":)");
    text(in.take_text());
    const std::string_view hub = in.take_text();
    if (!hub.empty()) {
        put(R"(,"hub":)");
        text(hub);
    }
    if (in.take<bool>()) {
        put(R"(,"query":true)");
    }
    put("}");
    end();
}

void line_writer::closed(packed_reader& in) {
    head("closed", "line-", 0);
    subject(channels_[in.take<std::uint32_t>()]);
    end();
}

void line_writer::site(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    if (sites_.size() <= number_of) {
        sites_.resize(number_of + 1);
    }
    sites_[number_of] = R"("at":)" + quoted_json(in.take_text());
    if (const std::string_view who = in.take_text(); !who.empty()) {
        sites_[number_of] += R"(,"by":)" + quoted_json(who);
    }
}

namespace {

std::vector<schema_node> take_schema(packed_reader& in) {
    std::vector<schema_node> all(in.take<std::uint32_t>());
    for (schema_node& node : all) {
        node.name = quoted_json(in.take_text()) + ":";
        if (in.take<bool>()) {
            node.inside = take_schema(in);
        }
    }
    return all;
}

} // namespace

void line_writer::schema(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    if (schemas_.size() <= number_of) {
        schemas_.resize(number_of + 1);
    }
    schemas_[number_of] = take_schema(in);
}

void line_writer::value(packed_reader& in, const schema_node* known) {
    switch (in.take<tag>()) {
    case tag::null:
        put("null");
        break;
    case tag::no:
        put("false");
        break;
    case tag::yes:
        put("true");
        break;
    case tag::integer: {
        const fmt::format_int digits(in.take<std::int64_t>());
        to_->append(digits.data(), digits.data() + digits.size());
        break;
    }
    case tag::natural:
        number(in.take<std::uint64_t>());
        break;
    case tag::real: {
        const auto real = in.take<double>();
        if (std::isfinite(real)) {
            fmt::format_to(std::back_inserter(*to_), "{}", real);
        } else {
            put("null"); // JSON has no other word for it
        }
        break;
    }
    case tag::text:
        text(in.take_text());
        break;
    case tag::list: {
        const auto count = in.take<std::uint32_t>();
        put("[");
        for (std::uint32_t i = 0; i < count; ++i) {
            put(i == 0 ? "" : ",");
            value(in, known);
        }
        put("]");
        break;
    }
    case tag::object:
        static const std::vector<schema_node> nothing;
        members(in, known != nullptr ? known->inside : nothing);
        break;
    }
}

void line_writer::members(packed_reader& in, const std::vector<schema_node>& known) {
    put("{");
    for (std::size_t i = 0; i < known.size(); ++i) {
        put(i == 0 ? "" : ",");
        put(known[i].name);
        value(in, &known[i]);
    }
    put("}");
}

void line_writer::payload(packed_reader& in, std::uint32_t schema) {
    if (schema == empty_schema) {
        put(R"(,"payload":{})");
    } else if (schema != no_schema) {
        put(R"(,"payload":)");
        members(in, schemas_[schema]);
    }
}

void line_writer::subscribed(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    const auto on = in.take<std::uint32_t>();
    const auto party = in.take<std::uint32_t>();
    const std::string_view name = in.take_text();
    const std::string_view line = in.take_text();
    const std::string_view stage = in.take_text();
    const std::string_view address = in.take_text();
    const auto is_paused = in.take<bool>();
    const auto handler = in.take<std::uint32_t>();
    head("subscribed", "line-", 0);
    subject(channels_[on]);
    put(R"(,"data":{"subscription":)");
    number(number_of);
    if (party != 0) {
        put(R"(,"party":)");
        number(party);
        put(R"(,"name":)");
        text(name);
    }
    put(R"(,"at":)");
    text(line);
    put(R"(,"stage":)");
    text(stage);
    if (!address.empty()) {
        put(R"(,"to":)");
        text(address);
    }
    if (is_paused) {
        put(R"(,"paused":true)");
    }
    if (handler != 0) {
        put(R"(,"handler":)");
        number(handler);
    }
    put("}");
    end();
}

void line_writer::ended(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    const auto on = in.take<std::uint32_t>();
    head("ended", "line-", 0);
    subject(channels_[on]);
    put(R"(,"data":{"subscription":)");
    number(number_of);
    if (in.take<bool>()) {
        put(R"(,"closed":true)");
    }
    put("}");
    end();
}

void line_writer::paused(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    const auto on = in.take<std::uint32_t>();
    head(in.take<bool>() ? "paused" : "resumed", "line-", 0);
    subject(channels_[on]);
    put(R"(,"data":{"subscription":)");
    number(number_of);
    put("}");
    end();
}

line_writer::event_head line_writer::take_head(packed_reader& in) noexcept {
    event_head first{};
    first.id = in.take<std::uint64_t>();
    first.cause = in.take<std::uint64_t>();
    first.handling = in.take<std::uint32_t>();
    first.on = in.take<std::uint32_t>();
    first.where = in.take<std::uint32_t>();
    return first;
}

void line_writer::begin_event(std::string_view kind, const event_head& first) {
    head(kind, "", first.id);
    subject(channels_[first.on]);
    if (first.cause != 0) {
        put(R"(,"cause":")");
        number(first.cause);
        put("\"");
    }
    put(R"(,"data":{)");
    put(sites_[first.where]);
    if (first.handling != 0) {
        put(R"(,"in":)");
        number(first.handling);
    }
}

void line_writer::address(std::string_view to) {
    if (!to.empty()) {
        put(R"(,"to":)");
        text(to);
    }
}

void line_writer::turns(packed_reader& in) {
    const auto count = in.take<std::uint32_t>();
    packed_reader again = in;
    const auto each = [&](std::string_view key, auto want, auto write) {
        packed_reader from = again;
        bool first = true;
        for (std::uint32_t i = 0; i < count; ++i) {
            const auto subscription = from.take<std::uint32_t>();
            const auto took = from.take<std::uint32_t>();
            const auto why = from.take<turn>();
            if (want(took, why)) {
                put(first ? key : ",");
                first = false;
                write(subscription, took, why);
            }
        }
        in = from;
        put(first ? "" : "]");
    };
    each(R"(,"heard":[)", [](std::uint32_t, turn why) { return why == turn::served; },
         [this](std::uint32_t subscription, std::uint32_t, turn) { number(subscription); });
    each(R"(,"missed":[)", [](std::uint32_t, turn why) { return why != turn::served; },
         [this](std::uint32_t subscription, std::uint32_t, turn why) {
             put("[");
             number(subscription);
             put(",\"");
             put(text_of(why));
             put("\"]");
         });
    each(R"(,"took":[)", [](std::uint32_t took, turn) { return took != 0; },
         [this](std::uint32_t subscription, std::uint32_t took, turn) {
             put("[");
             number(subscription);
             put(",");
             number(took);
             put("]");
         });
}

void line_writer::event(packed_reader& in) {
    const event_head first = take_head(in);
    const auto stopped_by = in.take<std::uint32_t>();
    const auto flags = in.take<std::uint8_t>();
    begin_event("event", first);
    address(in.take_text());
    constexpr std::pair<event_flag, std::string_view> texts[] = {{flag_outside, R"(,"outside":true)"},
                                                                 {flag_retained, R"(,"retained":true)"},
                                                                 {flag_refused, R"(,"refused":true)"},
                                                                 {flag_vacant, R"(,"vacant":true)"},
                                                                 {flag_closed, R"(,"closed":true)"}};
    for (const auto& [flag, as_text] : texts) {
        put((flags & flag) != 0 ? as_text : "");
    }
    if ((flags & flag_stopped) != 0) {
        put(R"(,"stopped":)");
        number(stopped_by);
    }
    turns(in);
    payload(in, in.take<std::uint32_t>());
    put("}");
    end();
}

void line_writer::post(packed_reader& in) {
    const event_head first = take_head(in);
    const auto outcome = in.take<std::uint8_t>();
    const auto outside = in.take<bool>();
    const std::string_view outbox = in.take_text();
    begin_event("post", first);
    put(R"(,"outbox":)");
    text(outbox);
    address(in.take_text());
    put(outcome == 1 ? R"(,"merged":true)" : outcome == 2 ? R"(,"turnedaway":true)" : "");
    put(outside ? R"(,"outside":true)" : "");
    payload(in, in.take<std::uint32_t>());
    put("}");
    end();
}

void line_writer::frame(packed_reader& in) {
    static_cast<void>(in.take<std::uint64_t>()); // the ledger's own count; recordings have theirs
    head("frame", "line-", 0);
    put(R"(,"gametime":")");
    put_time(*to_, in.take<std::int64_t>());
    put("\"");
    end();
    ++frame_;
}

void line_writer::waiting(packed_reader& in) {
    const auto count = in.take<std::uint32_t>();
    head("waiting", "line-", 0);
    put(R"(,"data":{"sequences":[)");
    for (std::uint32_t i = 0; i < count; ++i) {
        put(i == 0 ? "{" : ",{");
        put(R"("name":)");
        text(in.take_text());
        put(R"(,"started":)");
        text(in.take_text());
        put(R"(,"at":)");
        text(in.take_text());
        put(R"(,"for":)");
        text(in.take_text());
        put(R"(,"channel":)");
        text(in.take_text());
        put(R"(,"since":)");
        number(in.take<std::uint64_t>());
        put(in.take<bool>() ? R"(,"hopeless":true})" : "}");
    }
    put("]}");
    end();
}

void line_writer::write(packed_reader in, fmt::memory_buffer& to) {
    to_ = &to;
    while (!in.empty()) {
        switch (in.take<record>()) {
        case record::began:
            began(in);
            break;
        case record::channel:
            channel(in);
            break;
        case record::closed:
            closed(in);
            break;
        case record::schema:
            schema(in);
            break;
        case record::site:
            site(in);
            break;
        case record::subscribed:
            subscribed(in);
            break;
        case record::ended:
            ended(in);
            break;
        case record::paused:
            paused(in);
            break;
        case record::party_ended:
            head("party.ended", "line-", 0);
            put(R"(,"data":{"party":)");
            number(in.take<std::uint32_t>());
            put("}");
            end();
            break;
        case record::event:
            event(in);
            break;
        case record::post:
            post(in);
            break;
        case record::frame:
            frame(in);
            break;
        case record::waiting:
            waiting(in);
            break;
        case record::skipped:
            head("skipped", "line-", 0);
            put(R"(,"data":{"events":)");
            number(in.take<std::uint64_t>());
            put("}");
            end();
            break;
        case record::finished:
            head("finished", "line-", 0);
            put(R"(,"data":{"events":)");
            number(in.take<std::uint64_t>());
            put("}");
            end();
            break;
        }
    }
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
