// SPDX-License-Identifier: MIT
#include <courier/recording/comparison.hpp>

#include "data/json_reader.hpp"

#include <algorithm>
#include <cstddef>
#include <functional>
#include <map>
#include <unordered_map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr std::size_t furthest_ahead = 64; ///< events that are looked at for one that both runs have

/// Tells what an event of a run was, so that it means the same in every run.
class event_teller {
public:
    event_teller(const run& of, const comparison_options& options) : of_(of), options_(options) {}

    [[nodiscard]] std::string listeners(const recorded_event& event) const {
        std::string list;
        for (std::uint32_t i = 0; i < event.heard; ++i) {
            list += (i == 0 ? "" : ", ") + party(of_.heard[event.first_heard + i]);
        }
        return event.is_cut ? "not recorded" : list.empty() ? "nobody" : list;
    }
    [[nodiscard]] std::string misses(const recorded_event& event) const {
        std::string list;
        for (std::uint32_t i = 0; i < event.missed; ++i) {
            const recorded_miss& miss = of_.missed[event.first_missed + i];
            list += (i == 0 ? "" : ", ") + party(miss.subscription) + " (" + std::string{text_of(miss.why)} + ")";
        }
        return list.empty() ? "nobody" : list;
    }
    [[nodiscard]] std::string outcome(const recorded_event& e) const {
        std::string text;
        const auto add = [&](bool holds, const std::string& what) {
            text += holds ? (text.empty() ? "" : ", ") + what : "";
        };
        add(e.stopped, e.stopped ? "stopped by " + party(e.stopped_by) : "");
        add(e.refused, "refused");
        add(e.vacant, "nobody at its address");
        add(e.combined, "combined");
        add(e.turned_away, "turned away");
        add(e.retained, "retained");
        add(e.outside, "from outside");
        return text.empty() ? "nothing special" : text;
    }
    // The cause, as far as it means the same in both runs.
    [[nodiscard]] std::string cause(const recorded_event& e) const {
        const recorded_event* const cause = of_.find(e.cause);
        if (cause == nullptr) {
            return "none";
        }
        return channel(*cause) + (cause->outside   ? " from outside"
                                  : options_.lines ? " at " + of_.texts[cause->at]
                                                   : " by " + maker(*cause));
    }
    [[nodiscard]] std::string maker(const recorded_event& e) const {
        return e.by == 0 && e.in_handler != 0 ? party(e.in_handler) : of_.maker_of(e);
    }
    [[nodiscard]] const std::string& channel(const recorded_event& e) const { return of_.channels[e.channel].name; }
    [[nodiscard]] std::string payload(const recorded_event& e) const { return std::string(of_.payload_of(e)); }
    [[nodiscard]] const std::string& text(std::uint32_t number) const { return of_.texts[number]; }

    /// The same for events that are taken for the same.
    [[nodiscard]] std::size_t key(const recorded_event& e) const {
        return std::hash<std::string>()(channel(e) + (e.is_post ? " post " : " ") + text(e.to) + payload(e));
    }

private:
    [[nodiscard]] std::string party(std::uint32_t subscription) const {
        std::string name = of_.name_of(subscription);
        const auto found = of_.subscriptions.find(subscription);
        if (!options_.lines && found != of_.subscriptions.end() && found->second.name.empty()) {
            name.erase(std::min(name.rfind(':'), name.size()));
        }
        return name;
    }

    const run& of_;
    const comparison_options options_;
};

/// Whether all fields of `one` are in `other` with the same values.
bool has_all_of(const nlohmann::json& one, const nlohmann::json& other) {
    if (one.is_object() && other.is_object()) {
        return std::all_of(one.items().begin(), one.items().end(), [&](const auto& field) {
            const auto found = other.find(field.key());
            return found != other.end() && has_all_of(field.value(), *found);
        });
    }
    if (one.is_array() && other.is_array()) {
        return one.size() == other.size() && std::equal(one.begin(), one.end(), other.begin(), has_all_of);
    }
    return one == other;
}

bool is_same_payload(std::string_view one, std::string_view other) {
    if (one == other) {
        return true;
    }
    const nlohmann::json left = detail::parsed_json(one);
    const nlohmann::json right = detail::parsed_json(other);
    return !left.is_discarded() && !right.is_discarded() && has_all_of(left, right);
}

std::vector<std::string> differences_between(const event_teller& one, const recorded_event& a,
                                             const event_teller& other, const recorded_event& b, bool lines) {
    std::vector<std::string> found;
    const auto look = [&](const char* what, const std::string& left, const std::string& right) {
        if (left != right) {
            found.push_back(std::string{what} + ": " + left + " | " + right);
        }
    };
    look("frame", std::to_string(a.frame), std::to_string(b.frame));
    look("channel", one.channel(a), other.channel(b));
    look("kind", a.is_post ? "a post" : "a publish", b.is_post ? "a post" : "a publish");
    if (!a.outside || !b.outside) { // which may be fed from elsewhere
        look("by", one.maker(a), other.maker(b));
        if (lines) {
            look("line", one.text(a.at), other.text(b.at));
        }
    }
    look("address", one.text(a.to), other.text(b.to));
    if (!is_same_payload(one.payload(a), other.payload(b))) {
        look("payload", one.payload(a), other.payload(b));
    }
    look("heard by", one.listeners(a), other.listeners(b));
    look("missed by", one.misses(a), other.misses(b));
    look("outcome", one.outcome(a), other.outcome(b));
    look("cause", one.cause(a), other.cause(b));
    return found;
}

/// The events of a run that are compared.
struct event_list {
    event_list(const run& of, const run_filter& filter, const comparison_options& options) : tell(of, options) {
        const run_selection selected(of, filter);
        for (const recorded_event& e : of.events) {
            if (selected(e)) {
                events.push_back(&e);
                keys.push_back(tell.key(e));
            }
        }
    }
    event_teller tell;
    std::vector<const recorded_event*> events;
    std::vector<std::size_t> keys;
};

/// Walks through two runs side by side.
class run_comparer {
public:
    run_comparer(const run& one, const run& other, const run_filter& filter, const comparison_options& options)
        : one_(one, filter, options), other_(other, filter, options), lines_(options.lines) {}

    run_comparison result() {
        while (at_ < one_.events.size() || there_ < other_.events.size()) {
            const bool both = at_ < one_.events.size() && there_ < other_.events.size();
            if (both && one_.keys[at_] == other_.keys[there_]) {
                pair();
            } else {
                const auto [skip, skip_there] = next_common();
                differ(skip, skip_there);
            }
        }
        for (auto& [name, channel] : channels_) {
            if (channel.changed + channel.only_one + channel.only_other != 0) {
                result_.channels.push_back(std::move(channel));
            }
        }
        const auto size = [](const channel_comparison& of) { return of.changed + of.only_one + of.only_other; };
        std::stable_sort(result_.channels.begin(), result_.channels.end(),
                         [&](const auto& a, const auto& b) { return size(a) > size(b); });
        return std::move(result_);
    }

private:
    channel_comparison& channel_of(const std::string& name) {
        channel_comparison& found = channels_[name];
        found.channel = name;
        return found;
    }

    /// Compares the next two.
    void pair() {
        const recorded_event& a = *one_.events[at_++];
        const recorded_event& b = *other_.events[there_++];
        std::vector<std::string> what = differences_between(one_.tell, a, other_.tell, b, lines_);
        channel_comparison& channel = channel_of(one_.tell.channel(a));
        if (what.empty()) {
            ++channel.same;
            ++result_.same;
            result_.same_before += result_.first ? 0 : 1;
            return;
        }
        ++channel.changed;
        for (const std::string& one : what) {
            ++result_.what[one.substr(0, one.find(':'))];
        }
        note({&a, &b, std::move(what)});
    }

    /// How many of each run stand before the next that both have.
    [[nodiscard]] std::pair<std::size_t, std::size_t> next_common() const {
        const std::size_t left = std::min(one_.events.size() - at_, furthest_ahead);
        const std::size_t right = std::min(other_.events.size() - there_, furthest_ahead);
        std::unordered_map<std::size_t, std::size_t> ahead;
        for (std::size_t i = 0; i < right; ++i) {
            ahead.try_emplace(other_.keys[there_ + i], i);
        }
        std::pair<std::size_t, std::size_t> nearest{left, right};
        for (std::size_t i = 0; i < left && i < nearest.first + nearest.second; ++i) {
            if (const auto found = ahead.find(one_.keys[at_ + i]);
                found != ahead.end() && i + found->second < nearest.first + nearest.second) {
                nearest = {i, found->second};
            }
        }
        return nearest;
    }

    /// In what stands before it, events of one channel are the same ones, changed.
    void differ(std::size_t skip, std::size_t skip_there) {
        const std::size_t past = at_ + skip;
        const std::size_t past_there = there_ + skip_there;
        while (at_ < past || there_ < past_there) {
            const recorded_event* const a = at_ < past ? one_.events[at_] : nullptr;
            const recorded_event* const b = there_ < past_there ? other_.events[there_] : nullptr;
            if (a != nullptr && b != nullptr && one_.tell.channel(*a) == other_.tell.channel(*b)) {
                pair();
            } else if (a != nullptr) {
                ++channel_of(one_.tell.channel(*a)).only_one;
                note({a, first_only(b), {}});
                ++at_;
            } else {
                ++channel_of(other_.tell.channel(*b)).only_other;
                note({nullptr, b, {}});
                ++there_;
            }
        }
    }
    /// Beside the very first difference, what the other run has there instead.
    [[nodiscard]] const recorded_event* first_only(const recorded_event* there) const {
        return result_.first ? nullptr : there;
    }
    void note(run_difference difference) {
        if (!result_.first) {
            if (difference.one != nullptr && difference.other != nullptr && difference.what.empty()) {
                difference.what =
                    differences_between(one_.tell, *difference.one, other_.tell, *difference.other, lines_);
            }
            result_.first = std::move(difference);
        }
    }

    event_list one_;
    event_list other_;
    const bool lines_;
    std::size_t at_ = 0;
    std::size_t there_ = 0;
    std::map<std::string, channel_comparison> channels_;
    run_comparison result_;
};

} // namespace

std::string in_words(const run& of, const recorded_event& e) {
    std::string text = "frame " + std::to_string(e.frame) + "  " + of.maker_of(e) +
                       (e.is_post ? " posts " : " publishes ") + of.channels[e.channel].name;
    text += e.to != 0 ? " to " + of.texts[e.to] : "";
    text += e.payload_size > 2 ? " " + std::string{of.payload_of(e)} : "";
    return text + "  at " + of.texts[e.at] +
           (e.is_post ? "" : "  heard by " + event_teller(of, {.lines = true}).listeners(e));
}

std::vector<std::string> differences(const run& one, const recorded_event& a, const run& other, const recorded_event& b,
                                     const comparison_options& options) {
    return differences_between({one, options}, a, {other, options}, b, options.lines);
}

run_comparison compare(const run& one, const run& other, const run_filter& filter, const comparison_options& options) {
    run_comparison result = run_comparer(one, other, filter, options).result();
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
