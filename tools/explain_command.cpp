// courier explain: the chain behind an event, or why one did not come.
#include "commands.hpp"
#include "json.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/recording/comparison.hpp>
#include <courier/recording/explanation.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <memory>
#include <stdexcept>
#include <string>

namespace tool {

namespace {

using courier::recorded_event;
using courier::run;

struct explain_request : run_request {
    std::string what;    ///< an event's number, a channel, or a party
    std::string why_not; ///< a party
};

std::string listeners(const run& of, const recorded_event& e) {
    std::string list;
    for (std::uint32_t i = 0; i < e.heard; ++i) {
        list += (i == 0 ? "" : ", ") + of.name_of(of.heard[e.first_heard + i]);
    }
    for (std::uint32_t i = 0; i < e.missed; ++i) {
        const courier::recorded_miss& miss = of.missed[e.first_missed + i];
        list += fmt::format("{}{} ({})", list.empty() ? "" : ", ", of.name_of(miss.subscription), text_of(miss.why));
    }
    if (e.is_cut) {
        return "not recorded: too many for a line";
    }
    return list.empty() ? "nobody" : list;
}

json as_json(const run& of, const recorded_event& e) {
    json one{{"event", e.id},        {"kind", e.is_post ? "post" : "publish"},
             {"frame", e.frame},     {"channel", of.channels[e.channel].name},
             {"by", of.maker_of(e)}, {"at", of.texts[e.at]}};
    if (e.cause != 0) {
        one.set("cause", e.cause);
    }
    if (e.in_handler != 0) {
        one.set("in_handler", of.name_of(e.in_handler));
    }
    if (e.payload_size != 0) {
        one.set("payload", json::parsed(of.payload_of(e)).value_or(json{}));
    }
    json heard = json::array();
    for (std::uint32_t i = 0; i < e.heard; ++i) {
        heard.add(of.name_of(of.heard[e.first_heard + i]));
    }
    one.set("heard_by", std::move(heard));
    if (e.is_cut) {
        one.set("left_out", true); // who heard it, and its payload
    }
    return one;
}

/// An event, and how it was found, for people: "horn last heard event 264".
struct found_event {
    const recorded_event& event;
    std::string text;
};

// The latest event that `what` names: by number, by channel, or heard by a party.
found_event find(const run& of, const explain_request& request) {
    std::uint64_t id = 0;
    const std::string& what = request.what;
    const auto [end, error] = std::from_chars(what.data(), what.data() + what.size(), id);
    if (error == std::errc{} && end == what.data() + what.size()) {
        if (const recorded_event* const found = of.find(id); found != nullptr) {
            return {*found, fmt::format("event {}", id)};
        }
        throw std::invalid_argument(fmt::format(
            "{} has no event {}; it has {}", of.file, id,
            of.events.empty() ? "none" : fmt::format("{} to {}", of.events.front().id, of.events.back().id)));
    }
    courier::run_filter filter = request.filter;
    const bool is_channel = of.channel_named(what) != UINT32_MAX;
    (is_channel ? filter.channel : filter.party) = what;
    check_names(of, filter);
    const recorded_event* latest = nullptr;
    const char* how = is_channel ? "last carried" : "last heard";
    for (const recorded_event& e : of.events) {
        const bool fits = is_channel ? !e.is_post : courier::concerns(of, e, what);
        latest = fits && filter.matches(of, e) ? &e : latest;
    }
    if (latest == nullptr && !is_channel) { // one who only publishes
        how = "last published";
        for (const recorded_event& e : of.events) {
            latest = filter.matches(of, e) ? &e : latest;
        }
    }
    if (latest == nullptr) {
        throw std::invalid_argument(
            fmt::format("{} has no event of '{}' there; say --why-not to see why", of.file, what));
    }
    return {*latest, fmt::format("{} {} event {}", what, how, latest->id)};
}

void print_chain(const run& of, const found_event& found) {
    const recorded_event& last = found.event;
    const bool colours = colours_wanted();
    const std::vector<const recorded_event*> chain = chain_of(of, last);
    fmt::print("{} (frame {}), {} {} from its first cause\n\n", found.text, last.frame, chain.size() - 1,
               chain.size() == 2 ? "step" : "steps");
    std::string indent;
    for (const recorded_event* e : chain) {
        const std::string payload = e->payload_size > 2 ? fmt::format(" {}", of.payload_of(*e)) : "";
        fmt::print("{}{} {} {} {}{}{}{}\n", indent,
                   paint(fmt::format("frame {:<4} {:>5}", e->frame, e->id), colour::grey, colours),
                   paint(of.maker_of(*e), colour::yellow, colours), e->is_post ? "posts" : "publishes",
                   paint(of.channels[e->channel].name, colour::cyan, colours),
                   e->to != 0 ? fmt::format(" to {}", of.texts[e->to]) : "", payload,
                   e->outside ? ", from outside" : "");
        fmt::print("{}                   {}\n", indent, paint("at " + of.texts[e->at], colour::grey, colours));
        if (e->in_handler != 0) {
            const auto s = of.subscriptions.find(e->in_handler);
            fmt::print("{}                   {}\n", indent,
                       paint(fmt::format("in the handler of {} from {}", of.name_of(e->in_handler),
                                         s != of.subscriptions.end() ? s->second.at : "?"),
                             colour::grey, colours));
        }
        indent += "  ";
    }
    if (last.is_post) {
        fmt::print("{}-> into outbox '{}'\n", indent, of.texts[last.outbox]);
    } else {
        fmt::print("{}-> heard by {}{}\n", indent, listeners(of, last),
                   last.stopped ? fmt::format("; stopped by {}", of.name_of(last.stopped_by)) : "");
    }
}

int print_why_not(const run& of, const explain_request& request) {
    courier::run_filter filter = request.filter;
    filter.party.clear();
    if (filter.channel.empty()) {
        throw std::invalid_argument("--why-not needs the channel that was expected; give --channel");
    }
    check_names(of, filter);
    filter.party = request.why_not;
    const courier::why_not_answer found = why_not(of, filter);
    if (request.json) {
        json all{
            {"channel", found.channel}, {"party", found.party}, {"published", found.published}, {"heard", found.heard}};
        json reasons = json::array();
        for (const courier::reason_found& r : found.reasons) {
            reasons.add({{"why", text_of(r.why)},
                         {"events", r.events},
                         {"example", r.example},
                         {"frame", r.frame},
                         {"at", r.where},
                         {"more", r.more}});
        }
        all.set("reasons", std::move(reasons));
        fmt::print("{}\n", all.on_lines());
        return found.reasons.empty() ? 0 : 1;
    }
    const bool colours = colours_wanted();
    const std::string until = filter.last_frame == UINT32_MAX ? "the end" : std::to_string(filter.last_frame);
    fmt::print("{} and {}, frames {} to {}\n", paint(found.party, colour::yellow, colours),
               paint(found.channel, colour::cyan, colours), filter.first_frame, until);
    fmt::print("  {} published, {} heard by {}{}\n", found.published, found.heard, found.party,
               found.heard != 0 ? fmt::format(" (first event {})", found.first_heard) : "");
    for (const courier::reason_found& r : found.reasons) {
        if (r.why == courier::unheard_reason::nobody_published) {
            fmt::print("  nobody published on it then");
            fmt::print("{}{}\n",
                       found.before != UINT32_MAX ? fmt::format("; before that in frame {}", found.before) : "",
                       found.after != UINT32_MAX ? fmt::format("; next in frame {}", found.after) : "");
            continue;
        }
        fmt::print("  {:>5} {}{}\n", r.events, paint(text_of(r.why), colour::bold, colours),
                   r.more.empty() ? "" : ": " + r.more);
        fmt::print("        {}\n", paint(fmt::format("{}  such as event {} in frame {}", r.where, r.example, r.frame),
                                         colour::grey, colours));
    }
    if (found.reasons.empty()) {
        fmt::print("  nothing kept any of them back\n");
    }
    return found.reasons.empty() ? 0 : 1;
}

int explain(explain_request& request) {
    if (!request.what.empty() && !request.why_not.empty()) {
        throw std::invalid_argument(
            "'" + request.what + "' and --why-not are two questions; the channel of --why-not is named by --channel");
    }
    if (request.what.empty() && request.why_not.empty()) {
        throw std::invalid_argument(
            "give WHAT to explain (an event's number, a channel or a party), or --why-not PARTY");
    }
    const run recorded = read(request);
    if (!request.why_not.empty()) {
        return print_why_not(recorded, request);
    }
    const found_event found = find(recorded, request);
    if (request.json) {
        json all = json::array();
        for (const recorded_event* e : chain_of(recorded, found.event)) {
            all.add(as_json(recorded, *e));
        }
        fmt::print("{}\n", all.on_lines());
        return 0;
    }
    print_chain(recorded, found);
    return 0;
}

} // namespace

void add_explain(command_line& to) {
    auto request = std::make_shared<explain_request>();
    option_set options = to.add("explain", "Show the chain behind an event, or why an expected one did not come",
                                [request] { return explain(*request); });
    add_file(options, *request);
    options.text("WHAT", request->what, "An event's number; a channel or a party for its latest event")
        .text("--why-not", request->why_not,
              "Why this party did not hear --channel (in --frames); exit code 1 if anything kept it back");
    add_filters(options, *request);
    options.examples({"courier explain night.jsonl horn", "courier explain night.jsonl 264",
                      "courier explain night.jsonl --why-not horn --channel weather.thundered"});
}

} // namespace tool
