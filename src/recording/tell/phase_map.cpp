// SPDX-License-Identifier: MIT
#include <courier/recording/phase_map.hpp>

#include "recording/tell/dot_text.hpp"

#include <fmt/format.h>

#include <map>
#include <set>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

using detail::escaped_for_dot;

namespace {

std::string cluster_of(const phases_books& set, std::size_t number) {
    std::map<std::pair<std::string, std::string>, std::uint64_t> made;
    std::map<std::string, std::uint64_t> entered;
    std::set<std::string> was;
    for (const phases_books::step& step : set.history) {
        ++made[{step.from, step.to}];
        ++entered[step.to];
        was.insert(step.from);
        was.insert(step.to);
    }
    std::string dot = fmt::format("  subgraph cluster_{} {{\n    label=\"{}: {} moves{}\"; fontname=\"DejaVu Sans\"; "
                                  "fontsize=12; color=\"#c5ccd3\";\n",
                                  number, escaped_for_dot(set.name), set.moves,
                                  set.refused != 0 ? fmt::format(", {} refused", set.refused) : "");
    for (const std::string& phase : set.phases) {
        dot += fmt::format("    \"{0}:{1}\" [label=\"{1}{2}\", fillcolor=\"{3}\"{4}];\n", number,
                           escaped_for_dot(phase), entered[phase] != 0 ? fmt::format("\\n{}", entered[phase]) : "",
                           was.contains(phase) || phase == set.now ? "#d7e8f4" : "#eeeeee",
                           phase == set.now ? ", peripheries=2" : "");
    }
    for (const phases_books::move& move : set.allowed) {
        const std::uint64_t times = made[{move.from, move.to}];
        dot += fmt::format("    \"{0}:{1}\" -> \"{0}:{2}\" [{3}];\n", number, escaped_for_dot(move.from),
                           escaped_for_dot(move.to), times != 0 ? fmt::format("label=\"{}\"", times) : "style=dashed");
        made.erase({move.from, move.to});
    }
    for (const auto& [move, times] : made) { // back to the first one, when what it is inside of ended
        if (times != 0) {
            dot += fmt::format("    \"{0}:{1}\" -> \"{0}:{2}\" [label=\"{3}\", color=\"#b0542a\"];\n", number,
                               escaped_for_dot(move.first), escaped_for_dot(move.second), times);
        }
    }
    return dot + "  }\n";
}

} // namespace

std::string as_dot(const std::vector<phases_books>& sets) {
    std::string dot =
        "digraph phases {\n  rankdir=LR; ranksep=0.8;\n"
        "  node [fontname=\"DejaVu Sans\", fontsize=11, shape=ellipse, style=filled, color=\"#5b6b7b\"];\n"
        "  edge [fontname=\"DejaVu Sans\", fontsize=10, color=\"#5b6b7b\"];\n";
    for (std::size_t i = 0; i < sets.size(); ++i) {
        dot += cluster_of(sets[i], i);
    }
    return dot + "}\n";
}

WIRED_COURIER_NAMESPACE_END
