#include "recording/write/line_writer.hpp"

#include "recording/write/json_text.hpp"

#include <courier/turn.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// Names are short; one that is not is cut, between two characters.
std::string_view cut(std::string_view name) noexcept {
    std::size_t size = std::min(name.size(), longest_name);
    while (size < name.size() && size != 0 && (static_cast<unsigned char>(name[size]) & 0xC0U) == 0x80U) {
        --size;
    }
    return name.substr(0, size);
}

} // namespace

void line_writer::name(std::string_view plain) {
    text(cut(plain));
}

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
    source_ = as_source(cut(in.take_text()));
    head("recording", "line-", 0);
    put(R"(,"data":{"format":)");
    number(recording_format);
    put(R"(,"facts":{)");
    const auto count = in.take<std::uint32_t>();
    constexpr std::size_t most = longest_line / 2;
    const std::size_t begin = to_->size();
    for (std::uint32_t i = 0; i < count; ++i) {
        const std::string_view key = in.take_text();
        const std::string_view fact = in.take_text();
        if (to_->size() - begin < most) {
            put(i == 0 ? "" : ",");
            name(key);
            put(":");
            name(fact);
        }
    }
    put("}}");
    end();
}

void line_writer::channel(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    if (channels_.size() <= number_of) {
        channels_.resize(number_of + 1);
    }
    channels_[number_of] = quoted_json(cut(in.take_text()));
    head("channel", "line-", 0);
    subject(channels_[number_of]);
    put(R"(,"data":{"payload":)");
    name(in.take_text());
    const std::string_view hub = in.take_text();
    if (!hub.empty()) {
        put(R"(,"hub":)");
        name(hub);
    }
    if (in.take<bool>()) {
        put(R"(,"query":true)");
    }
    put("}");
    end();
}

// Without memory, what it is called may not have been told.
std::string_view line_writer::channel_named(std::uint32_t number_of) const noexcept {
    const bool known = number_of < channels_.size() && !channels_[number_of].empty();
    return known ? std::string_view{channels_[number_of]} : std::string_view{R"("?")"};
}

void line_writer::closed(packed_reader& in) {
    head("closed", "line-", 0);
    subject(channel_named(in.take<std::uint32_t>()));
    end();
}

void line_writer::site(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    if (sites_.size() <= number_of) {
        sites_.resize(number_of + 1);
    }
    sites_[number_of] = R"("at":)" + quoted_json(cut(in.take_text()));
    if (const std::string_view who = in.take_text(); !who.empty()) {
        sites_[number_of] += R"(,"by":)" + quoted_json(cut(who));
    }
}

void line_writer::subscribed(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    const auto on = in.take<std::uint32_t>();
    const auto party = in.take<std::uint32_t>();
    const std::string_view who = in.take_text();
    const std::string_view line = in.take_text();
    const std::string_view stage = in.take_text();
    const std::string_view address = in.take_text();
    const auto is_paused = in.take<bool>();
    const auto handler = in.take<std::uint32_t>();
    head("subscribed", "line-", 0);
    subject(channel_named(on));
    put(R"(,"data":{"subscription":)");
    number(number_of);
    if (party != 0) {
        put(R"(,"party":)");
        number(party);
        put(R"(,"name":)");
        name(who);
    }
    put(R"(,"at":)");
    name(line);
    put(R"(,"stage":)");
    name(stage);
    if (!address.empty()) {
        put(R"(,"to":)");
        name(address);
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
    subject(channel_named(on));
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
    subject(channel_named(on));
    put(R"(,"data":{"subscription":)");
    number(number_of);
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
    const std::size_t begin = to_->size();
    for (std::uint32_t i = 0; i < count; ++i) {
        const std::size_t before = to_->size();
        put(i == 0 ? "{" : ",{");
        put(R"("name":)");
        name(in.take_text());
        put(R"(,"started":)");
        name(in.take_text());
        put(R"(,"at":)");
        name(in.take_text());
        put(R"(,"for":)");
        name(in.take_text());
        put(R"(,"channel":)");
        name(in.take_text());
        put(R"(,"since":)");
        number(in.take<std::uint64_t>());
        put(in.take<bool>() ? R"(,"source_gone":true})" : "}");
        if (to_->size() - begin > longest_line / 2) {
            to_->resize(before); // the longest ones wait longest, but so many are more than anybody reads
        }
    }
    put("]}");
    end();
}

void line_writer::of_number(std::string_view type, std::string_view key, std::uint64_t plain) {
    head(type, "line-", 0);
    put(R"(,"data":{")");
    put(key);
    put(R"(":)");
    number(plain);
    put("}");
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
            of_number("party.ended", "party", in.take<std::uint32_t>());
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
            of_number("skipped", "events", in.take<std::uint64_t>());
            break;
        case record::finished:
            of_number("finished", "events", in.take<std::uint64_t>());
            break;
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
