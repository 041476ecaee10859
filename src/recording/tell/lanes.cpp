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

lane_chart chart_of(const run& of, const run_filter& filter, std::size_t most) {
    lane_chart chart;
    std::map<std::string, std::size_t> known;
    std::map<std::uint64_t, int> depths;
    const auto lane = [&](const std::string& party) {
        const auto [found, is_new] = known.emplace(party, chart.lanes.size());
        if (is_new) {
            chart.lanes.push_back(party);
        }
        return found->second;
    };
    for (const recorded_event& e : of.events) {
        if (!filter.matches(of, e)) {
            continue;
        }
        if (chart.messages.size() == most) {
            ++chart.left_out;
            continue;
        }
        lane_message message{&e, lane(of.maker_of(e)), {}, 0};
        if (e.is_post) {
            message.to.push_back(lane("outbox '" + of.texts[e.outbox] + "'"));
        } else if (const recorded_event* const post = of.find(e.cause); post != nullptr && post->is_post) {
            message.from = lane("outbox '" + of.texts[post->outbox] + "'");
        }
        for (std::uint32_t i = 0; i < e.heard; ++i) {
            const std::size_t to = lane(of.name_of(of.heard[e.first_heard + i]));
            if (std::find(message.to.begin(), message.to.end(), to) == message.to.end()) {
                message.to.push_back(to);
            }
        }
        if (const auto cause = depths.find(e.cause); cause != depths.end()) {
            message.depth = cause->second + 1;
        }
        depths[e.id] = message.depth;
        chart.messages.push_back(std::move(message));
    }
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
