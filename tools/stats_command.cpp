// SPDX-License-Identifier: MIT
// courier stats: how much went along each channel, frame by frame.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/statistics.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <string>
#include <vector>

namespace tool {

namespace {

constexpr std::size_t table_width = 90;

/// What the terminal leaves beside the table.
std::size_t chart_width() {
    const std::size_t columns = terminal_columns();
    return std::clamp<std::size_t>(columns > table_width ? columns - table_width - 1 : 0, 20, 100);
}

// The most that any one frame had, for each column.
std::vector<std::uint32_t> columns_of(const std::vector<std::uint32_t>& by_frame) {
    const std::size_t count = std::min(chart_width(), by_frame.size());
    std::vector<std::uint32_t> columns(count);
    for (std::size_t i = 0; i < by_frame.size(); ++i) {
        std::uint32_t& column = columns[i * count / by_frame.size()];
        column = std::max(column, by_frame[i]);
    }
    return columns;
}

std::string bar_row(const std::vector<std::uint32_t>& by_frame, std::uint64_t highest) {
    constexpr const char* bars[] = {"·", "▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    std::string row;
    for (const std::uint32_t height : columns_of(by_frame)) {
        const std::uint64_t step = height == 0 || highest == 0 ? 0 : 1 + height * std::uint64_t{7} / highest;
        row += bars[std::min<std::uint64_t>(step, 8)];
    }
    return row;
}

void print_slowest(const std::vector<courier::handler_statistics>& slowest, bool colours) {
    print("\n{}\n", paint(fmt::format("  {:<26}{:<26}{:>7}{:>12}{:>12}{:>9}  {}", "slowest handlers", "channel",
                                      "calls", "mean us", "longest us", "event", "line"),
                          colour::bold, colours));
    for (const courier::handler_statistics& one : slowest) {
        print("  {}{}{:>7}{:>12.1f}{:>12.1f}{:>9}  {}\n",
              paint(fmt::format("{:<26}", one.party), colour::yellow, colours),
              paint(fmt::format("{:<26}", one.channel), colour::cyan, colours), one.calls,
              static_cast<double>(one.total_ns) / 1000 / static_cast<double>(one.calls),
              static_cast<double>(one.longest_ns) / 1000, one.longest, one.at);
    }
}

int run_stats(run_request& request) {
    const courier::run recorded = read(request, false);
    const courier::run_statistics sums = statistics_of(recorded, request.filter);
    if (request.json) {
        print("{}\n", courier::to_json(sums));
        return 0;
    }
    const bool colours = colours_wanted();
    print("{}: {}; {} publishes shown\n\n", recorded.file, recorded.state(), sums.events);
    print("{}\n",
          paint(fmt::format("  {:<26}{:>9}{:>11}{:>9}{:>9}{:>8}{:>14}  {}", "channel", "published", "deliveries",
                            "unheard", "stopped", "posted", "most in frame", "frame by frame, most in each column"),
                colour::bold, colours));
    for (const courier::channel_statistics& c : sums.channels) {
        const std::string most = c.published == 0 ? "" : fmt::format("{} ({})", c.max_in_frame, c.busiest_frame);
        print("  {}{:>9}{:>11}{:>9}{:>9}{:>8}{:>14}  {}\n",
              paint(fmt::format("{:<26}", c.channel), colour::cyan, colours), c.published, c.deliveries, c.unheard,
              c.stopped, c.posted, most, bar_row(c.by_frame, c.max_in_frame));
    }
    const std::uint32_t highest =
        sums.by_frame.empty() ? 0 : *std::max_element(sums.by_frame.begin(), sums.by_frame.end());
    print("  {:<26}{:>9}{:>53}{}\n", "all", sums.events, "", bar_row(sums.by_frame, highest));
    if (sums.frames != 0) {
        print("\n  frames {} to {}; a full bar is the most that the channel had in a frame\n", sums.first_frame,
              sums.first_frame + sums.frames - 1);
    }
    if (!sums.slowest.empty()) {
        print_slowest(sums.slowest, colours);
    }
    return 0;
}

} // namespace

void add_stats(command_line& to) {
    auto request = std::make_shared<run_request>();
    option_set options = to.add("stats", "Count what went along each channel, frame by frame",
                                [request] { return run_stats(*request); });
    add_file(options, *request);
    add_filters(options, *request);
    options.examples({"courier stats night.jsonl", "courier stats night.jsonl --frames 70:90 --json"});
}

} // namespace tool
