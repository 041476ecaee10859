// SPDX-License-Identifier: MIT
#include <courier/recording/lanes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <map>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::string escaped(std::string_view text) {
    std::string out;
    for (const char c : text) {
        out += c == '"' || c == '\\' ? "\\" : "";
        out += c;
    }
    return out;
}

} // namespace

lane_table lanes_of(const run& of, const std::vector<const recorded_event*>& events) {
    lane_table table;
    std::vector<std::uint32_t> parties; // lanes + 1, by text
    std::vector<std::uint32_t> outboxes;
    const auto lane = [&](std::vector<std::uint32_t>& known, std::uint32_t text, auto name) {
        known.resize(std::max<std::size_t>(known.size(), text + 1));
        if (known[text] == 0) {
            table.names.push_back(name(of.texts[text]));
            known[text] = static_cast<std::uint32_t>(table.names.size());
        }
        return known[text] - 1;
    };
    const auto party = [&](std::uint32_t text) {
        return lane(parties, text, [](const std::string& name) { return name; });
    };
    const auto outbox = [&](std::uint32_t text) {
        return lane(outboxes, text, [](const std::string& name) { return "outbox '" + name + "'"; });
    };
    table.from.reserve(events.size());
    table.end.reserve(events.size());
    for (const recorded_event* const e : events) {
        std::uint32_t from = party(e->maker);
        if (e->is_post) {
            table.to.push_back(outbox(e->outbox));
        } else if (const recorded_event* const post = of.find(e->cause); post != nullptr && post->is_post) {
            from = outbox(post->outbox);
        }
        table.from.push_back(from);
        for (std::uint32_t i = 0; i < e->heard; ++i) {
            const auto by = of.subscriptions.find(of.heard[e->first_heard + i]);
            table.to.push_back(by != of.subscriptions.end() ? party(by->second.who) : from);
        }
        table.end.push_back(static_cast<std::uint32_t>(table.to.size()));
    }
    return table;
}

lane_chart chart_of(const run& of, const run_filter& filter, std::size_t most) {
    lane_chart chart;
    std::vector<const recorded_event*> events;
    const run_selection selected(of, filter);
    for (const recorded_event& e : of.events) {
        if (!selected(e)) {
            continue;
        }
        if (events.size() == most) {
            ++chart.left_out;
        } else {
            events.push_back(&e);
        }
    }
    lane_table table = lanes_of(of, events);
    std::map<std::uint64_t, int> depths;
    std::uint32_t begin = 0;
    for (std::size_t i = 0; i < events.size(); ++i) {
        lane_message message{events[i], table.from[i], {}, 0};
        for (; begin < table.end[i]; ++begin) {
            if (std::find(message.to.begin(), message.to.end(), table.to[begin]) == message.to.end()) {
                message.to.push_back(table.to[begin]);
            }
        }
        if (const auto cause = depths.find(events[i]->cause); cause != depths.end()) {
            message.depth = cause->second + 1;
        }
        depths[events[i]->id] = message.depth;
        chart.messages.push_back(std::move(message));
    }
    chart.lanes = std::move(table.names);
    return chart;
}

std::string as_msc(const run& of, const lane_chart& chart) {
    constexpr std::size_t lane_width = 150; // pixels; room for the name of a channel
    std::string msc = fmt::format("msc {{\n  width=\"{}\", arcgradient=\"0\", wordwraparcs=\"on\";\n  ",
                                  lane_width * std::max<std::size_t>(chart.lanes.size(), 1));
    for (std::size_t i = 0; i < chart.lanes.size(); ++i) {
        msc += fmt::format("{}l{} [label=\"{}\"]", i == 0 ? "" : ", ", i, escaped(chart.lanes[i]));
    }
    msc += chart.lanes.empty() ? "l0 [label=\"nobody\"];\n" : ";\n";
    std::uint32_t frame = UINT32_MAX;
    for (const lane_message& m : chart.messages) {
        if (m.event->frame != frame) {
            frame = m.event->frame;
            msc += fmt::format("  --- [label=\"frame {}\"];\n", frame);
        }
        const std::string label = escaped(of.channels[m.event->channel].name) + (m.event->is_post ? " (posted)" : "") +
                                  (m.event->stopped ? " (stopped)" : "");
        if (m.to.empty()) {
            msc += fmt::format("  l{0} rbox l{0} [label=\"{1}: {2}\", textbgcolour=\"#f7d9c4\"];\n", m.from, label,
                               m.event->is_cut ? "not recorded" : "nobody heard");
            continue;
        }
        bool first = true;
        for (const std::size_t to : m.to) {
            msc += first ? "" : ",\n";
            msc += fmt::format("  l{} {} l{} [label=\"{}\"]", m.from, m.event->is_post ? ">>" : "=>", to,
                               first ? label : "");
            first = false;
        }
        msc += ";\n";
    }
    if (chart.left_out != 0) {
        msc += fmt::format("  ... [label=\"{} more\"];\n", chart.left_out);
    }
    return msc + "}\n";
}

WIRED_COURIER_NAMESPACE_END
