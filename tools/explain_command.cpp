// SPDX-License-Identifier: MIT
// courier explain: the chain behind an event, or why one did not come.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/comparison.hpp>
#include <courier/recording/explanation.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <iterator>
#include <memory>
#include <stdexcept>
#include <string>
#include <vector>

namespace tool {

namespace {

using courier::recorded_event;
using courier::run;

using courier::event_of;

struct explain_request : run_request {
    std::vector<std::string> named; ///< files, and at the end what
    std::vector<std::string> files;
    std::string what;    ///< an event's number, a channel, or a party
    std::string why_not; ///< a party
};

/// What the recording is called among others: by its process, else by its file.
std::string name_of(const run& of) {
    return of.processes.empty() ? of.file : of.processes.front().process;
}

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

/// An event as JSON has it.
struct told_event {
    std::uint64_t event;
    std::string recording;
    std::string kind;
    std::uint32_t frame;
    std::string channel;
    std::string to;
    std::string maker;
    std::string at;
    std::uint64_t cause;
    std::string in_handler;
    std::optional<courier::recorded_origin> from;
    std::vector<std::string> heard_by;
    bool left_out; ///< who heard it, and its payload
};

std::string json_of(const run& of, const recorded_event& e) {
    told_event one{e.id,
                   name_of(of),
                   e.is_post ? "post" : "publish",
                   e.frame,
                   of.channels[e.channel].name,
                   of.texts[e.to],
                   of.maker_of(e),
                   of.texts[e.at],
                   e.cause,
                   e.in_handler != 0 ? of.name_of(e.in_handler) : "",
                   {},
                   {},
                   e.is_cut};
    if (const courier::recorded_origin* const from = origin_of(of, e); from != nullptr) {
        one.from = *from;
    }
    for (std::uint32_t i = 0; i < e.heard; ++i) {
        one.heard_by.push_back(of.name_of(of.heard[e.first_heard + i]));
    }
    std::string text = courier::to_json(one);
    if (e.payload_size != 0) { // which is JSON already
        text.insert(text.size() - 1, fmt::format(R"(,"payload":{})", of.payload_of(e)));
    }
    return text;
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
        throw courier::recording_error(
            courier::recording_code::unknown_name, fmt::format("has no event {}", id), of.file,
            of.events.empty() ? "it has none"
                              : fmt::format("it has {} to {}", of.events.front().id, of.events.back().id));
    }
    courier::run_filter filter = request.filter;
    const bool is_channel = of.channel_named(what) != UINT32_MAX;
    (is_channel ? filter.channel : filter.party) = what;
    check_names(of, filter);
    const courier::run_selection selected(of, filter);
    const recorded_event* latest = nullptr;
    const char* how = is_channel ? "last carried" : "last heard";
    for (const recorded_event& e : of.events) {
        const bool fits = is_channel ? !e.is_post : courier::concerns(of, e, what);
        latest = fits && selected(e) ? &e : latest;
    }
    if (latest == nullptr && !is_channel) { // one who only publishes
        how = "last published";
        for (const recorded_event& e : of.events) {
            latest = selected(e) ? &e : latest;
        }
    }
    if (latest == nullptr) {
        throw courier::recording_error(courier::recording_code::unknown_name,
                                       fmt::format("has no event of '{}' there", what), of.file,
                                       "ask with --why-not for the reason");
    }
    return {*latest, fmt::format("{} {} event {}", what, how, latest->id)};
}

// Other programs do not count their events.
std::string in_words(const courier::recorded_origin& from) {
    return from.event == 0 ? from.process : fmt::format("event {} of {}", from.event, from.process);
}

void print_event(const event_of& one, const std::string& indent, bool among_others, bool colours) {
    const run& of = *one.of;
    const recorded_event& e = *one.event;
    const std::string payload = e.payload_size > 2 ? fmt::format(" {}", of.payload_of(e)) : "";
    const std::string place = among_others ? fmt::format("{} frame {:<4} {:>5}", name_of(of), e.frame, e.id)
                                           : fmt::format("frame {:<4} {:>5}", e.frame, e.id);
    const courier::recorded_origin* const from = origin_of(of, e);
    print("{}{} {} {} {}{}{}{}\n", indent, paint(place, colour::grey, colours),
          paint(of.maker_of(e), colour::yellow, colours), e.is_post ? "posts" : "publishes",
          paint(of.channels[e.channel].name, colour::cyan, colours),
          e.to != 0 ? fmt::format(" to {}", of.texts[e.to]) : "", payload,
          e.outside && from == nullptr ? ", from outside" : "");
    const std::string below = indent + std::string(place.size() + 1, ' ');
    print("{}{}{}\n", below, paint("at " + of.texts[e.at], colour::grey, colours),
          from != nullptr ? ", from " + in_words(*from) : "");
    if (e.in_handler != 0) {
        const auto s = of.subscriptions.find(e.in_handler);
        print("{}{}\n", below,
              paint(fmt::format("in the handler of {} from {}", of.name_of(e.in_handler),
                                s != of.subscriptions.end() ? s->second.at : "?"),
                    colour::grey, colours));
    }
}

void print_chain(const std::vector<run>& all, const run& of, const found_event& found) {
    const recorded_event& last = found.event;
    const bool colours = colours_wanted();
    const bool among_others = all.size() > 1;
    const std::vector<event_of> chain = chain_across(all, {&of, &last});
    std::vector<const recorded_event*> here;
    for (const event_of& one : chain) {
        if (one.of == &of) {
            here.push_back(one.event);
        }
    }
    print("{}\n\n", in_a_sentence(of, here));
    print("{}{} (frame {}), {} {} from its first cause\n\n", among_others ? name_of(of) + ": " : "", found.text,
          last.frame, chain.size() - 1, chain.size() == 2 ? "step" : "steps");
    std::string indent;
    for (const event_of& one : chain) {
        print_event(one, indent, among_others, colours);
        indent += "  ";
    }
    if (last.is_post) {
        print("{}-> into outbox '{}'\n", indent, of.texts[last.outbox]);
    } else {
        print("{}-> heard by {}{}\n", indent, listeners(of, last),
              last.stopped ? fmt::format("; stopped by {}", of.name_of(last.stopped_by)) : "");
    }
    const courier::recorded_origin* const from = origin_of(*chain.front().of, *chain.front().event);
    if (from != nullptr) {
        print("\nits first cause here came from {}{}\n", in_words(*from),
              from->event != 0 ? fmt::format("; to follow it, give the recording of its run {}, too", from->run) : "");
    }
}

using why_not_answers = std::vector<courier::why_not_answer>;

// Details are grey and headings bold.
void print_lines(const why_not_answers& path) {
    const bool colours = colours_wanted();
    bool is_first = true;
    for (const std::string& line : in_words(path)) {
        const bool is_detail = line.starts_with(' ');
        print("{}{}\n", is_first ? "" : "  ",
              is_detail  ? paint(line, colour::grey, colours)
              : is_first ? paint(line, colour::bold, colours)
                         : line);
        is_first = false;
    }
}

// Without a channel, all that the party ever subscribed to; in JSON, all there are.
int print_why_not_anywhere(const run& of, courier::run_filter filter, bool as_json) {
    std::vector<why_not_answers> all;
    bool any = false;
    for (std::uint32_t channel = 0; channel < of.channels.size(); ++channel) {
        const bool is_subscribed = std::any_of(of.subscriptions.begin(), of.subscriptions.end(), [&](const auto& one) {
            return one.second.channel == channel && of.texts[one.second.who] == filter.party;
        });
        if (!is_subscribed && !as_json) {
            continue;
        }
        filter.channel = of.channels[channel].name;
        all.push_back(why_not_path(of, filter));
        any = any || !all.back().front().reasons.empty();
        if (!as_json) {
            print_lines(all.back());
        }
    }
    if (as_json) {
        print("{}\n", courier::to_json(all));
    } else if (all.empty()) {
        print("{} subscribes to nothing\n", filter.party);
    }
    return any ? 1 : 0;
}

int print_why_not(const run& of, const explain_request& request) {
    courier::run_filter filter = request.filter;
    filter.party.clear();
    check_names(of, filter);
    filter.party = request.why_not;
    if (filter.channel.empty()) {
        return print_why_not_anywhere(of, filter, request.json);
    }
    const why_not_answers path = why_not_path(of, filter);
    if (request.json) {
        print("{}\n", courier::to_json(path));
    } else {
        print_lines(path);
    }
    return path.front().reasons.empty() ? 0 : 1;
}

// What comes last is what to explain, unless it is a file.
void sort_names(explain_request& request) {
    request.files = request.named;
    const std::filesystem::path last = request.files.back();
    if (request.files.size() > 1 && last.extension() != ".jsonl" && !std::filesystem::exists(last)) {
        request.what = request.files.back();
        request.files.pop_back();
    }
}

std::vector<run> read_all(explain_request& request) {
    std::vector<run> all;
    const courier::run_filter filter = request.filter; // its names need not be in every file
    for (const std::string& file : request.files) {
        request.file = file;
        if (request.files.size() > 1) {
            request.filter = {};
        }
        all.push_back(read(request));
    }
    const courier::run_filter frames = request.filter;
    request.filter = filter;
    request.filter.first_frame = frames.first_frame;
    request.filter.last_frame = frames.last_frame;
    return all;
}

struct found_place {
    const run& of;
    found_event event;
};

// Looked for from the last file on.
found_place find_in(const std::vector<run>& all, const explain_request& request) {
    for (auto one = all.rbegin(); one != all.rend(); ++one) {
        try {
            return {*one, find(*one, request)};
        } catch (const courier::recording_error&) {
            if (std::next(one) == all.rend()) {
                throw;
            }
        }
    }
    throw std::invalid_argument("give a recording"); // there is one in any case
}

// The latest event that came over from another process.
found_place find_crossed(const std::vector<run>& all) {
    for (auto one = all.rbegin(); one != all.rend(); ++one) {
        if (!one->origins.empty()) {
            const std::uint64_t id = one->origins.rbegin()->first;
            if (const recorded_event* const e = one->find(id); e != nullptr) {
                return {*one, {*e, fmt::format("the latest event from another process is {}", id)}};
            }
        }
    }
    throw std::invalid_argument("no event of these recordings came from another process; give WHAT to explain");
}

int explain(explain_request& request) {
    sort_names(request);
    if (!request.what.empty() && !request.why_not.empty()) {
        throw std::invalid_argument(
            "'" + request.what + "' and --why-not are two questions; the channel of --why-not is named by --channel");
    }
    const bool has_question = !request.what.empty() || !request.why_not.empty();
    if (request.files.size() == 1 && !has_question) {
        throw std::invalid_argument(
            "give WHAT to explain (an event's number, a channel or a party), or --why-not PARTY");
    }
    if (request.files.size() > 1 && !request.why_not.empty()) {
        throw std::invalid_argument("--why-not asks one recording; give that of the party's process");
    }
    const std::vector<run> all = read_all(request);
    if (!request.why_not.empty()) {
        return print_why_not(all.front(), request);
    }
    const found_place found = has_question ? find_in(all, request) : find_crossed(all);
    if (request.json) {
        std::string text;
        for (const event_of& one : chain_across(all, {&found.of, &found.event.event})) {
            text += (text.empty() ? "\n " : ",\n ") + json_of(*one.of, *one.event);
        }
        print("[{}\n]\n", text);
        return 0;
    }
    print_chain(all, found.of, found.event);
    return 0;
}

} // namespace

void add_explain(command_line& to) {
    auto request = std::make_shared<explain_request>();
    option_set options = to.add("explain", "Show the chain behind an event, or why an expected one did not come",
                                [request] { return explain(*request); });
    options
        .required("FILE", request->named,
                  "One or more recordings, then WHAT: an event's number, or a channel or a party for its latest event")
        .flag("--json", request->json, "Print JSON, for other tools")
        .text("--why-not", request->why_not,
              "Why this party did not hear --channel, or any that it subscribed to (in --frames); exit code 1 if "
              "anything kept it back");
    add_filters(options, *request);
    options.examples({"courier explain night.jsonl horn", "courier explain night.jsonl 264",
                      "courier explain night.jsonl --why-not horn --channel weather.thundered",
                      "courier explain night-reef-1.jsonl night-reef-2.jsonl"});
}

} // namespace tool
