// SPDX-License-Identifier: MIT
#include <courier/recording/route_map.hpp>

#include "recording/tell/dot_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::vector<route_end> sorted(const std::map<std::string, std::uint64_t>& ends) {
    std::vector<route_end> all;
    all.reserve(ends.size());
    for (const auto& [party, events] : ends) {
        all.push_back({party, events});
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.events > b.events; });
    return all;
}

double width_of(std::uint64_t events) {
    return 0.8 + 0.7 * std::log10(static_cast<double>(events) + 1);
}

} // namespace

std::vector<route> route_map(const run& of, const run_filter& filter) {
    std::vector<route> routes;
    routes.reserve(of.channels.size());
    std::vector<std::map<std::string, std::uint64_t>> from(of.channels.size());
    std::vector<std::map<std::string, std::uint64_t>> to(of.channels.size());
    for (const recorded_channel& c : of.channels) {
        routes.push_back({.channel = c.name, .payload = c.payload, .hub = c.hub, .is_query = c.is_query});
    }
    for (const auto& [number, s] : of.subscriptions) {
        if (s.since <= filter.last_frame && (s.until == UINT32_MAX || s.until >= filter.first_frame)) {
            to[s.channel].try_emplace(of.name_of(number), 0);
        }
    }
    const run_selection selected(of, filter);
    for (const recorded_event& e : of.events) {
        if (e.is_post || !selected(e)) {
            continue;
        }
        ++routes[e.channel].events;
        routes[e.channel].unheard += e.was_unheard() ? 1U : 0U;
        ++from[e.channel][of.maker_of(e)];
        for (std::uint32_t i = 0; i < e.heard; ++i) {
            ++to[e.channel][of.name_of(of.heard[e.first_heard + i])];
        }
    }
    for (std::size_t i = 0; i < routes.size(); ++i) {
        routes[i].from = sorted(from[i]);
        routes[i].to = sorted(to[i]);
    }
    std::vector<route> shown;
    for (std::size_t i = 0; i < routes.size(); ++i) {
        if (!of.channels[i].is_owned && selected.has_channel(static_cast<std::uint32_t>(i)) &&
            (!filter.narrow() || routes[i].events != 0 || !filter.channel.empty())) {
            shown.push_back(std::move(routes[i]));
        }
    }
    return shown;
}

std::string as_dot(const std::vector<route>& routes) {
    std::string dot = "digraph routes {\n  rankdir=LR; ranksep=1.1; nodesep=0.18;\n"
                      "  node [fontname=\"DejaVu Sans\", fontsize=11];\n"
                      "  edge [fontname=\"DejaVu Sans\", fontsize=9, color=\"#5b6b7b\"];\n";
    std::map<std::string, bool> parties;
    for (const route& r : routes) {
        const std::string channel = detail::escaped_for_dot(r.channel);
        const bool quiet = r.events == 0;
        const bool lost = !quiet && r.unheard == r.events;
        dot += fmt::format(
            "  \"c:{}\" [label=\"{}\\n{}\", shape=cds, style=filled, margin=\"0.3,0.1\", fillcolor=\"{}\"{}];\n",
            channel, channel,
            quiet  ? "never published"
            : lost ? fmt::format("{}, nobody heard", r.events)
                   : std::to_string(r.events),
            quiet        ? "#eeeeee"
            : lost       ? "#f7d9c4"
            : r.is_query ? "#e3e0f3"
                         : "#d7e8f4",
            quiet ? ", fontcolor=\"#777777\"" : "");
        for (const route_end& end : r.from) {
            parties[end.party] = true;
            dot += fmt::format("  \"p:{}\" -> \"c:{}\" [penwidth={:.1f}, label=\"{}\"];\n",
                               detail::escaped_for_dot(end.party), channel, width_of(end.events), end.events);
        }
        for (const route_end& end : r.to) {
            parties[end.party] = true;
            dot += fmt::format("  \"c:{}\" -> \"p:{}\" [penwidth={:.1f}, label=\"{}\"{}];\n", channel,
                               detail::escaped_for_dot(end.party), width_of(end.events), end.events,
                               end.events == 0 ? ", style=dashed" : "");
        }
    }
    for (const auto& [party, there] : parties) {
        dot += fmt::format("  \"p:{0}\" [label=\"{0}\", shape=underline, style=filled, fillcolor=\"#fbf3dc\"];\n",
                           detail::escaped_for_dot(party));
    }
    return dot + "}\n";
}

WIRED_COURIER_NAMESPACE_END
