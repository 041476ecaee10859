// courier lanes: a stretch of frames as a message sequence chart.
#include "commands.hpp"
#include "drawing.hpp"
#include "json.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

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

/// A name on lines of a width, broken between words; in one only where it is longer.
std::vector<std::string> broken(std::string_view name, std::size_t width) {
    std::vector<std::string> lines;
    while (!name.empty()) {
        std::string_view part = characters_of(name, 0, width);
        if (part.size() != name.size()) {
            const std::size_t space = name.substr(0, part.size() + 1).find_last_of(" .-_/");
            if (space != std::string_view::npos && space != 0) {
                part = name.substr(0, name[space] == ' ' ? space : std::min(space + 1, part.size()));
            }
        }
        lines.emplace_back(part);
        name.remove_prefix(part.size());
        name.remove_prefix(std::min(name.find_first_not_of(' '), name.size()));
    }
    return lines;
}

std::string headings(const std::vector<std::vector<std::string>>& names, std::size_t row, std::size_t lane_width) {
    std::string line(label_width, ' ');
    for (const std::vector<std::string>& lines : names) {
        const std::string_view part = row < lines.size() ? std::string_view{lines[row]} : std::string_view{};
        line.append(part).append(lane_width - width_of(part), ' ');
    }
    return line;
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
    std::size_t rows = 1;
    std::vector<std::vector<std::string>> names;
    for (const std::string& lane : chart.lanes) {
        names.push_back(broken(lane, lane_width - 1));
        rows = std::max(rows, names.back().size());
    }
    for (std::size_t row = 0; row < rows; ++row) {
        fmt::print("{}\n", paint(headings(names, row, lane_width), colour::yellow, colours));
    }
    std::uint32_t frame = UINT32_MAX;
    for (const courier::lane_message& m : chart.messages) {
        if (m.event->frame != frame) {
            frame = m.event->frame;
            fmt::print("{}\n", paint(fmt::format("frame {}", frame), colour::bold, colours));
        }
        const std::string label = fitted(std::string(static_cast<std::size_t>(std::min(m.depth, 6)), ' ') +
                                             of.channels[m.event->channel].name,
                                         label_width - 1);
        fmt::print("{}{}{}\n", paint(label, colour::cyan, colours), std::string(label_width - width_of(label), ' '),
                   arrow_line(chart, m, lane_width));
    }
    fmt::print("{}\n",
               paint("● from  ▶ ◀ heard by  ○ nobody heard  ╌ posted, to be delivered later", colour::grey, colours));
    if (chart.left_out != 0) {
        fmt::print("{} more; narrow it with --frames, or raise --most\n", chart.left_out);
    }
}

void print_json(const courier::run& of, const courier::lane_chart& chart) {
    json messages = json::array();
    for (const courier::lane_message& m : chart.messages) {
        messages.add({{"event", m.event->id},
                      {"frame", m.event->frame},
                      {"channel", of.channels[m.event->channel].name},
                      {"posted", m.event->is_post},
                      {"from", m.from},
                      {"to", m.to},
                      {"depth", m.depth}});
    }
    const json all{{"lanes", chart.lanes}, {"left_out", chart.left_out}, {"messages", std::move(messages)}};
    fmt::print("{}\n", all.on_lines());
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
    options.number("--most", request->most, "How many events at most", 1, 10000)
        .file("--msc", request->msc, "Write the chart in mscgen's language to this file ('-': standard output)")
        .file("--svg", request->svg, "Draw the chart into this file");
    add_filters(options, *request);
    options.examples(
        {"courier lanes night.jsonl --frames 70:72", "courier lanes night.jsonl --who horn --svg horn.svg"});
}

} // namespace tool
