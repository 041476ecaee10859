#include <courier/recording/comparison.hpp>

#include <algorithm>
#include <map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::string listeners(const run& of, const recorded_event& event) {
    std::string list;
    for (std::uint32_t i = 0; i < event.heard; ++i) {
        list += (i == 0 ? "" : ", ") + of.name_of(of.heard[event.first_heard + i]);
    }
    return event.is_cut ? "not recorded" : list.empty() ? "nobody" : list;
}

std::string misses(const run& of, const recorded_event& event) {
    std::string list;
    for (std::uint32_t i = 0; i < event.missed; ++i) {
        const recorded_miss& miss = of.missed[event.first_missed + i];
        list += (i == 0 ? "" : ", ") + of.name_of(miss.subscription) + " (" + std::string{text_of(miss.why)} + ")";
    }
    return list.empty() ? "nobody" : list;
}

std::string outcome(const run& of, const recorded_event& e) {
    std::string text;
    const auto add = [&](bool holds, const std::string& what) {
        text += holds ? (text.empty() ? "" : ", ") + what : "";
    };
    add(e.stopped, "stopped by " + of.name_of(e.stopped_by));
    add(e.refused, "refused");
    add(e.vacant, "nobody at its address");
    add(e.combined, "combined");
    add(e.turned_away, "turned away");
    add(e.retained, "retained");
    add(e.outside, "from outside");
    return text.empty() ? "nothing special" : text;
}

// The cause, as far as it means the same in both runs.
std::string cause_in_words(const run& of, const recorded_event& e) {
    const recorded_event* const cause = of.find(e.cause);
    if (cause == nullptr) {
        return "none";
    }
    return of.channels[cause->channel].name + (cause->outside ? " from outside" : " at " + of.texts[cause->at]);
}

const recorded_event* next_in(const run& of, const run_filter& filter, std::size_t& at) {
    while (at < of.events.size() && !filter.matches(of, of.events[at])) {
        ++at;
    }
    return at < of.events.size() ? &of.events[at++] : nullptr;
}

std::map<std::string, std::uint64_t> counts_of(const run& of, const run_filter& filter) {
    std::map<std::string, std::uint64_t> counts;
    for (const recorded_event& e : of.events) {
        if (!e.is_post && filter.matches(of, e)) {
            ++counts[of.channels[e.channel].name];
        }
    }
    return counts;
}

} // namespace

std::string in_words(const run& of, const recorded_event& e) {
    std::string text = "frame " + std::to_string(e.frame) + "  " + of.maker_of(e) +
                       (e.is_post ? " posts " : " publishes ") + of.channels[e.channel].name;
    text += e.to != 0 ? " to " + of.texts[e.to] : "";
    text += e.payload_size > 2 ? " " + std::string{of.payload_of(e)} : "";
    return text + "  at " + of.texts[e.at] + (e.is_post ? "" : "  heard by " + listeners(of, e));
}

std::vector<std::string> differences(const run& one, const recorded_event& a, const run& other,
                                     const recorded_event& b) {
    std::vector<std::string> found;
    const auto look = [&](const char* what, const std::string& left, const std::string& right) {
        if (left != right) {
            found.push_back(std::string{what} + ": " + left + " | " + right);
        }
    };
    look("frame", std::to_string(a.frame), std::to_string(b.frame));
    look("channel", one.channels[a.channel].name, other.channels[b.channel].name);
    look("kind", a.is_post ? "a post" : "a publish", b.is_post ? "a post" : "a publish");
    if (!a.outside || !b.outside) { // which may be fed from elsewhere
        look("by", one.maker_of(a), other.maker_of(b));
        look("line", one.texts[a.at], other.texts[b.at]);
    }
    look("address", one.texts[a.to], other.texts[b.to]);
    look("payload", std::string{one.payload_of(a)}, std::string{other.payload_of(b)});
    look("heard by", listeners(one, a), listeners(other, b));
    look("missed by", misses(one, a), misses(other, b));
    look("outcome", outcome(one, a), outcome(other, b));
    look("cause", cause_in_words(one, a), cause_in_words(other, b));
    return found;
}

run_comparison compare(const run& one, const run& other, const run_filter& filter) {
    run_comparison result;
    std::size_t at = 0;
    std::size_t other_at = 0;
    for (;;) {
        const recorded_event* const a = next_in(one, filter, at);
        const recorded_event* const b = next_in(other, filter, other_at);
        if (a == nullptr && b == nullptr) {
            break;
        }
        run_difference difference{a, b, {}};
        if (a != nullptr && b != nullptr) {
            difference.what = differences(one, *a, other, *b);
            if (difference.what.empty()) {
                ++result.same;
                continue;
            }
        }
        result.first = std::move(difference);
        break;
    }
    const auto counts = counts_of(one, filter);
    auto left = counts_of(other, filter);
    for (const auto& [channel, count] : counts) {
        if (const std::uint64_t there = std::exchange(left[channel], 0); there != count) {
            result.counts.push_back({channel, count, there});
        }
    }
    for (const auto& [channel, count] : left) {
        if (count != 0) {
            result.counts.push_back({channel, 0, count});
        }
    }
    for (const auto& [name, value] : one.facts) {
        const auto there = other.facts.find(name);
        if (there == other.facts.end() || there->second != value) {
            std::string fact = name;
            fact.append(": ").append(value).append(" | ").append(there == other.facts.end() ? "" : there->second);
            result.facts.push_back(std::move(fact));
        }
    }
    return result;
}

WIRED_COURIER_NAMESPACE_END
