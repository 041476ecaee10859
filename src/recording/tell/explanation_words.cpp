// SPDX-License-Identifier: MIT
// Answers and chains in words, for the tool and the page alike.
#include <courier/recording/explanation.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cstddef>
#include <set>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

std::vector<std::string> in_words(const why_not_answer& answer) {
    const std::string until = answer.last_frame == UINT32_MAX ? "the end" : std::to_string(answer.last_frame);
    std::vector<std::string> lines{
        fmt::format("{} and {}, frames {} to {}", answer.party, answer.channel, answer.first_frame, until),
        fmt::format("{} published, {} heard by {}{}", answer.published, answer.heard, answer.party,
                    answer.heard != 0 ? fmt::format(" (first event {})", answer.first_heard) : "")};
    for (const reason_found& r : answer.reasons) {
        if (r.why == unheard_reason::nobody_published) {
            lines.push_back(
                fmt::format("nobody published on it then{}{}",
                            answer.before != UINT32_MAX ? fmt::format("; before that in frame {}", answer.before) : "",
                            answer.after != UINT32_MAX ? fmt::format("; next in frame {}", answer.after) : ""));
            continue;
        }
        lines.push_back(fmt::format("{} {}{}", r.events, text_of(r.why), r.more.empty() ? "" : ": " + r.more));
        lines.push_back(fmt::format("  {}  such as event {} in frame {}", r.where, r.example, r.frame));
    }
    if (answer.reasons.empty()) {
        lines.emplace_back("nothing kept any of them back");
    }
    return lines;
}

std::vector<std::string> in_words(const std::vector<why_not_answer>& path) {
    std::vector<std::string> lines = in_words(path.front());
    for (std::size_t i = 1; i < path.size(); ++i) {
        const why_not_answer& before = path[i - 1];
        const why_not_answer& at = path[i];
        lines.push_back(fmt::format("{} publishes {} when it hears {}", at.party, before.channel, at.channel));
        if (at.published != 0 && at.heard != 0) {
            lines.push_back(fmt::format("  it heard {} of {} then, and published nothing on {}: look into its handler",
                                        at.heard, at.published, before.channel));
            continue;
        }
        const std::vector<std::string> own = in_words(at);
        for (std::size_t k = 1; k < own.size(); ++k) { // behind its heading
            lines.push_back("  " + own[k]);
        }
    }
    return lines;
}

namespace {

// In a sentence, a name of several words is told from the words around it.
std::string quoted_if_long(const std::string& name) {
    return name.find(' ') != std::string::npos ? "'" + name + "'" : name;
}

std::string names_in_words(const std::set<std::string>& names) {
    constexpr std::size_t most = 4;
    std::string text;
    std::size_t told = 0;
    for (const std::string& name : names) {
        if (told == most) {
            return text + fmt::format(" and {} more", names.size() - most);
        }
        text += (told == 0 ? "" : told + 1 == names.size() ? " and " : ", ") + quoted_if_long(name);
        ++told;
    }
    return text;
}

std::string end_in_words(const run& of, const recorded_event& last) {
    if (last.is_post) {
        return "; it went into outbox '" + of.texts[last.outbox] + "'";
    }
    std::set<std::string> names;
    for (std::uint32_t i = 0; i < last.heard; ++i) {
        names.insert(of.name_of(of.heard[last.first_heard + i]));
    }
    return last.is_cut              ? "; who heard it was not recorded"
           : !names.empty()         ? "; " + names_in_words(names) + " heard it"
           : last.deliveries() != 0 ? "; the handler that it reached failed"
                                    : "; nobody heard it";
}

} // namespace

std::string in_a_sentence(const run& of, const std::vector<const recorded_event*>& chain) {
    constexpr std::size_t most = 8; // links that are told
    std::string text;
    std::uint32_t frame = UINT32_MAX;
    for (std::size_t i = 0; i < chain.size(); ++i) {
        if (chain.size() > most && i == most / 2) {
            const std::size_t left_out = chain.size() - most;
            text += fmt::format(", and after {} more {}", left_out, left_out == 1 ? "step" : "steps");
            i += left_out;
        }
        const recorded_event& e = *chain[i];
        if (i != 0 && chain[i - 1]->is_post && chain[i - 1]->id == e.cause && chain[i - 1]->channel == e.channel) {
            if (std::exchange(frame, e.frame) != e.frame) {
                text += fmt::format(", delivered in frame {}", e.frame);
            }
            continue;
        }
        text += fmt::format("{}{} {} {}{}", i == 0 ? "" : ", so ", quoted_if_long(of.maker_of(e)),
                            e.is_post ? "posted" : "published", of.channels[e.channel].name,
                            e.to != 0 ? " to " + of.texts[e.to] : "");
        if (std::exchange(frame, e.frame) != e.frame) {
            text += fmt::format(" in frame {}", e.frame);
        }
    }
    return chain.empty() ? text : text + end_in_words(of, *chain.back());
}

WIRED_COURIER_NAMESPACE_END
