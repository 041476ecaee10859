// SPDX-License-Identifier: MIT
#include <courier/recording/system_map.hpp>

#include "recording/tell/dot_text.hpp"

#include <fmt/format.h>

#include <map>
#include <set>

WIRED_COURIER_NAMESPACE_BEGIN

using detail::escaped_for_dot;

namespace {

std::string label_of(const system_books& system) {
    std::string label = escaped_for_dot(system.name);
    for (const std::string& team : system.teams) {
        label += "\\nteam " + escaped_for_dot(team);
    }
    return label + (system.paused ? "\\npaused" : system.lent ? "\\nlent" : system.updated ? "" : "\\nno update");
}

} // namespace

std::string as_dot(const std::vector<system_books>& systems) {
    std::string dot = "digraph systems {\n  rankdir=LR; ranksep=0.9; nodesep=0.2;\n"
                      "  label=\"what is needed -> who needs it; thick: changes it, dashed: reads it\"; labelloc=b;\n"
                      "  fontname=\"DejaVu Sans\"; fontsize=10;\n"
                      "  node [fontname=\"DejaVu Sans\", fontsize=11, shape=box, style=filled, color=\"#5b6b7b\"];\n"
                      "  edge [fontname=\"DejaVu Sans\", fontsize=9, color=\"#5b6b7b\"];\n";
    std::map<std::uint32_t, std::string> waves;
    for (const system_books& system : systems) {
        dot += fmt::format("  \"{}\" [label=\"{}\", fillcolor=\"{}\"{}];\n", escaped_for_dot(system.name),
                           label_of(system),
                           system.lent     ? "#eeeeee"
                           : system.paused ? "#f7d9c4"
                                           : "#d7e8f4",
                           system.lent ? ", style=\"filled,rounded\"" : "");
        if (system.updated) {
            waves[system.wave] += fmt::format(" \"{}\";", escaped_for_dot(system.name));
        }
    }
    for (const auto& [wave, names] : waves) {
        dot += fmt::format("  {{ rank=same;{} }}\n", names);
    }
    for (const system_books& system : systems) {
        for (const system_books::need& need : system.needs) {
            dot += fmt::format("  \"{}\" -> \"{}\" [{}];\n", escaped_for_dot(need.name), escaped_for_dot(system.name),
                               need.changes ? "penwidth=2.2" : "style=dashed");
        }
    }
    return dot + "}\n";
}

WIRED_COURIER_NAMESPACE_END
