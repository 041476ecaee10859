// SPDX-License-Identifier: MIT
#include <courier/recording/run_filter.hpp>

#include <courier/nearest.hpp>
#include <courier/recording/recording_fault.hpp>

#include <algorithm>
#include <set>
#include <stdexcept>

WIRED_COURIER_NAMESPACE_BEGIN

bool concerns(const run& of, const recorded_event& event, const std::string& party) {
    for (std::uint32_t i = 0; i < event.heard; ++i) {
        if (of.name_of(of.heard[event.first_heard + i]) == party) {
            return true;
        }
    }
    for (std::uint32_t i = 0; i < event.missed; ++i) {
        if (of.name_of(of.missed[event.first_missed + i].subscription) == party) {
            return true;
        }
    }
    return false;
}

namespace {

std::string in_small_letters(std::string_view text) {
    std::string made(text);
    for (char& c : made) {
        c = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
    }
    return made;
}

/// Compares names with one that is asked for.
class name_match {
public:
    name_match(const std::string& asked, bool by_part)
        : asked_(by_part ? in_small_letters(asked) : asked), by_part_(by_part) {}
    bool operator()(const std::string& name) const {
        return by_part_ ? in_small_letters(name).find(asked_) != std::string::npos : name == asked_;
    }

private:
    std::string asked_;
    bool by_part_;
};

/// Frames in which a phase went on: "watch: storm".
std::vector<std::pair<std::uint32_t, std::uint32_t>> spans_of(const run& of, const std::string& wanted) {
    std::vector<std::pair<std::uint32_t, std::uint32_t>> spans;
    for (const phases_books& set : of.phases) {
        const std::string before = set.name + ": ";
        if (!wanted.starts_with(before)) {
            continue;
        }
        const std::string_view phase = std::string_view(wanted).substr(before.size());
        bool is_on = set.history.empty() ? set.now == phase : set.history.front().from == phase;
        std::uint32_t since = 0;
        for (const phases_books::step& step : set.history) {
            const auto frame = static_cast<std::uint32_t>(step.frame);
            if (is_on && step.from == phase) {
                spans.emplace_back(since, frame);
            }
            is_on = step.to == phase;
            since = is_on ? frame : since;
        }
        if (is_on) {
            spans.emplace_back(since, UINT32_MAX);
        }
    }
    return spans;
}

} // namespace

run_selection::run_selection(const run& of, const run_filter& filter)
    : of_(&of), first_frame_(filter.first_frame), last_frame_(filter.last_frame) {
    if (!filter.channel.empty()) {
        const name_match fits(filter.channel, filter.by_part);
        for (const recorded_channel& one : of.channels) {
            channels_.push_back(fits(one.name));
        }
    }
    if (!filter.party.empty()) {
        const name_match fits(filter.party, filter.by_part);
        for (std::uint32_t text = 0; text < of.texts.size(); ++text) {
            makers_.push_back(fits(of.texts[text]));
        }
        for (const auto& [number, one] : of.subscriptions) {
            if (makers_[one.who]) {
                hearers_.insert(number);
            }
        }
    }
    if (!filter.address.empty()) {
        address_ = of.texts.find(filter.address); // UINT32_MAX, which no event has, when there is none
    }
    if (!filter.phase.empty()) {
        in_phase_ = true;
        spans_ = spans_of(of, filter.phase);
    }
}

bool run_selection::is_in_phase(std::uint32_t frame) const {
    return std::any_of(spans_.begin(), spans_.end(),
                       [=](const auto& span) { return span.first <= frame && frame <= span.second; });
}

bool run_selection::is_heard(const recorded_event& event) const {
    const auto heard = of_->heard.begin() + event.first_heard;
    const auto missed = of_->missed.begin() + event.first_missed;
    return std::any_of(heard, heard + event.heard, [this](std::uint32_t one) { return hearers_.contains(one); }) ||
           std::any_of(missed, missed + event.missed,
                       [this](const recorded_miss& one) { return hearers_.contains(one.subscription); });
}

bool run_selection::operator()(const recorded_event& event) const {
    return event.frame >= first_frame_ && event.frame <= last_frame_ && has_channel(event.channel) &&
           (address_ == 0 || event.to == address_) && (!in_phase_ || is_in_phase(event.frame)) &&
           (makers_.empty() || makers_[event.maker] || is_heard(event));
}

namespace {

[[noreturn]] void refuse(const run& of, const char* kind, const std::string& name, const std::set<std::string>& known,
                         std::string hint = "look in 'courier map' for those that it has") {
    throw recording_error(recording_code::unknown_name, std::string("has no ") + kind + " '" + name + "'", of.file,
                          did_you_mean(name, known, std::move(hint)));
}

} // namespace

void check_names(const run& of, const run_filter& filter) {
    if (!filter.channel.empty() && of.channel_named(filter.channel) == UINT32_MAX) {
        std::set<std::string> names;
        for (const recorded_channel& c : of.channels) {
            names.insert(c.name);
        }
        refuse(of, "channel", filter.channel, names);
    }
    if (!filter.address.empty()) {
        std::set<std::string> names;
        for (const recorded_event& e : of.events) {
            if (e.to != 0) {
                names.insert(of.texts[e.to]);
            }
        }
        if (!names.contains(filter.address)) {
            refuse(of, "event for address", filter.address, names,
                   names.empty() ? "none of its events is for an address" : "there is '" + *names.begin() + "'");
        }
    }
    if (!filter.party.empty()) {
        std::set<std::string> names;
        for (const auto& [number, s] : of.subscriptions) {
            names.insert(of.name_of(number));
        }
        for (const recorded_event& e : of.events) {
            names.insert(of.maker_of(e));
        }
        if (!names.contains(filter.party)) {
            refuse(of, "party", filter.party, names);
        }
    }
}

WIRED_COURIER_NAMESPACE_END
