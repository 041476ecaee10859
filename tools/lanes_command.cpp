// SPDX-License-Identifier: MIT
// courier lanes: a stretch of frames as a message sequence chart.
#include "commands.hpp"
#include "drawing.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/lanes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <memory>

namespace tool {

namespace {

struct lanes_request : run_request {
    std::string msc;
    std::string svg;
    long long most = 60;
};

constexpr std::size_t label_width = 20;

/// As wide as the terminal allows.
std::size_t lane_width_for(std::size_t lanes) {
    const std::size_t columns = terminal_columns();
    const std::size_t room = columns > label_width + 10 ? columns - label_width - 1 : 60;
    return std::clamp<std::size_t>(room / std::max<std::size_t>(lanes, 1), 5, 14);
}

/// A name on lines of a width, broken between words; empty when a word is longer.
std::vector<std::string> broken(std::string_view name, std::size_t width) {
    std::vector<std::string> lines(1);
    while (!name.empty()) {
        const std::string_view word = name.substr(0, name.find(' '));
        const std::size_t room = lines.back().empty() ? width : width - std::min(width, width_of(lines.back()) + 1);
        if (width_of(word) > width) {
            return {};
        }
        if (width_of(word) > room) {
            lines.emplace_back();
        }
        lines.back() += (lines.back().empty() ? "" : " ") + std::string{word};
        name.remove_prefix(std::min(word.size() + 1, name.size()));
    }
    return lines;
}

/// The names above their lanes, each on lines of its own.
std::vector<std::string> side_by_side(const std::vector<std::vector<std::string>>& names, std::size_t lane_width) {
    std::vector<std::string> rows;
    for (std::size_t lane = 0; lane < names.size(); ++lane) {
        for (std::size_t row = 0; row < names[lane].size(); ++row) {
            if (rows.size() == row) {
                rows.emplace_back();
            }
            const std::size_t before = label_width + lane * lane_width;
            rows[row].append(before - width_of(rows[row]), ' ').append(names[lane][row]);
        }
    }
    return rows;
}

/// Where a word is wider than its lane: a row for each name, with a bar down to it.
std::vector<std::string> as_stairs(const std::vector<std::string>& lanes, std::size_t lane_width) {
    std::vector<std::string> rows;
    for (std::size_t lane = 0; lane < lanes.size(); ++lane) {
        std::string& row = rows.emplace_back(label_width, ' ');
        for (std::size_t before = 0; before < lane; ++before) {
            row.append("│").append(lane_width - 1, ' ');
        }
        row += lanes[lane];
    }
    return rows;
}

std::vector<std::string> headings(const std::vector<std::string>& lanes, std::size_t lane_width) {
    std::vector<std::vector<std::string>> names;
    for (const std::string& lane : lanes) {
        names.push_back(broken(lane, lane_width - 1));
        if (names.back().empty()) {
            return as_stairs(lanes, lane_width);
        }
    }
    return side_by_side(names, lane_width);
}

// One line: bars where nothing happens, an arrow from one lane to the others.
std::string arrow_line(const courier::lane_chart& chart, const courier::lane_message& m, std::size_t lane_width) {
    const std::size_t low = m.to.empty() ? m.from : std::min(m.from, *std::min_element(m.to.begin(), m.to.end()));
    const std::size_t high = m.to.empty() ? m.from : std::max(m.from, *std::max_element(m.to.begin(), m.to.end()));
    const std::string dash = m.event->is_post ? "╌" : "─";
    std::string line;
    for (std::size_t i = 0; i < chart.lanes.size(); ++i) {
        const bool is_end = std::find(m.to.begin(), m.to.end(), i) != m.to.end();
        const bool inside = i >= low && i <= high;
        std::string mark = "│";
        if (i == m.from) {
            mark = m.to.empty() && !m.event->is_cut ? "○" : is_end ? "◉" : "●";
        } else if (is_end) {
            mark = i > m.from ? "▶" : "◀";
        } else if (inside) {
            mark = "┼";
        }
        line += mark;
        const bool goes_on = i >= low && i < high;
        for (std::size_t k = 1; k < lane_width; ++k) {
            line += goes_on ? dash : " ";
        }
    }
    return line;
}

void print_chart(const courier::run& of, const courier::lane_chart& chart) {
    const bool colours = colours_wanted();
    const std::size_t lane_width = lane_width_for(chart.lanes.size());
    for (const std::string& row : headings(chart.lanes, lane_width)) {
        print("{}\n", paint(row, colour::yellow, colours));
    }
    std::uint32_t frame = UINT32_MAX;
    for (const courier::lane_message& m : chart.messages) {
        if (m.event->frame != frame) {
            frame = m.event->frame;
            print("{}\n", paint(fmt::format("frame {}", frame), colour::bold, colours));
        }
        const std::string label = fitted(std::string(static_cast<std::size_t>(std::min(m.depth, 6)), ' ') +
                                             of.channels[m.event->channel].name,
                                         label_width - 1);
        print("{}{}{}\n", paint(label, colour::cyan, colours), std::string(label_width - width_of(label), ' '),
              arrow_line(chart, m, lane_width));
    }
    print("{}\n",
          paint("● from  ▶ ◀ heard by  ○ nobody heard  ╌ posted, to be delivered later", colour::grey, colours));
    if (chart.left_out != 0) {
        print("{} more; narrow it with --frames, or raise --limit\n", chart.left_out);
    }
}

/// A message as JSON has it.
struct told_message {
    std::uint64_t event;
    std::string channel;
    std::string maker;
    bool is_post;
    std::uint32_t frame;
    std::size_t from; ///< lane
    std::vector<std::size_t> to;
    int depth;
};
struct told_lanes {
    std::vector<std::string> lanes;
    std::vector<told_message> messages;
    std::size_t left_out;
};

void print_json(const courier::run& of, const courier::lane_chart& chart) {
    told_lanes all{chart.lanes, {}, chart.left_out};
    for (const courier::lane_message& m : chart.messages) {
        all.messages.push_back({m.event->id, of.channels[m.event->channel].name, of.maker_of(*m.event),
                                m.event->is_post, m.event->frame, m.from, m.to, m.depth});
    }
    print("{}\n", courier::to_json(all));
}

int run_lanes(lanes_request& request) {
    check_not_the_recording(request.file, "--msc", request.msc);
    check_not_the_recording(request.file, "--svg", request.svg);
    const courier::run recorded = read(request, false);
    const courier::lane_chart chart = chart_of(recorded, request.filter, static_cast<std::size_t>(request.most));
    if (!request.msc.empty()) {
        write_text(request.msc, as_msc(recorded, chart));
    }
    if (!request.svg.empty()) {
        draw("mscgen", {"-T", "svg", "-o"}, "mscgen", as_msc(recorded, chart), request.svg);
    }
    if (request.json) {
        print_json(recorded, chart);
    } else if (request.msc.empty() && request.svg.empty()) {
        print_chart(recorded, chart);
    }
    return 0;
}

} // namespace

void add_lanes(command_line& to) {
    auto request = std::make_shared<lanes_request>();
    option_set options = to.add("lanes", "Draw a stretch of frames as a message sequence chart",
                                [request] { return run_lanes(*request); });
    add_file(options, *request);
    options.number("--limit", request->most, "How many events at most", 1, 10000)
        .file("--msc", request->msc, "Write the chart in mscgen's language to this file ('-': standard output)")
        .file("--svg", request->svg, "Draw the chart into this file");
    add_filters(options, *request);
    options.examples(
        {"courier lanes night.jsonl --frames 70:72", "courier lanes night.jsonl --who horn --svg horn.svg"});
}

} // namespace tool
