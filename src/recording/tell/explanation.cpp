// SPDX-License-Identifier: MIT
#include <courier/recording/explanation.hpp>

#include <algorithm>
#include <array>
#include <map>
#include <set>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

std::vector<const recorded_event*> chain_of(const run& of, const recorded_event& event) {
    std::vector<const recorded_event*> chain;
    for (const recorded_event* e = &event; e != nullptr; e = e->cause < e->id ? of.find(e->cause) : nullptr) {
        chain.push_back(e);
    }
    std::reverse(chain.begin(), chain.end());
    return chain;
}

const recorded_origin* origin_of(const run& of, const recorded_event& event) {
    const auto found = of.origins.find(event.id);
    return found != of.origins.end() ? &found->second : nullptr;
}

namespace {

const run* run_of(std::span<const run> all, const recorded_origin& from) {
    for (const run& one : all) {
        for (const recorded_process& name : one.processes) {
            if (name.process == from.process && name.run == from.run) {
                return &one;
            }
        }
    }
    return nullptr;
}

} // namespace

// Recordings that were changed may lead in a circle; each event is told once.
std::vector<event_of> chain_across(std::span<const run> all, event_of last) {
    std::vector<event_of> chain;
    std::set<const recorded_event*> told;
    while (last.event != nullptr && told.insert(last.event).second) {
        const std::vector<const recorded_event*> here = chain_of(*last.of, *last.event);
        for (auto e = here.rbegin(); e != here.rend(); ++e) {
            chain.push_back({last.of, *e});
        }
        const recorded_origin* const from = origin_of(*last.of, *here.front());
        const run* const there = from != nullptr ? run_of(all, *from) : nullptr;
        last = {there, there != nullptr ? there->find(from->event) : nullptr};
    }
    std::reverse(chain.begin(), chain.end());
    return chain;
}

std::string text_of(unheard_reason why) {
    constexpr std::array<std::string_view, 18> texts{"nobody published",
                                                     "waits in an outbox",
                                                     "combined with another post",
                                                     "turned away by a full outbox",
                                                     "nobody subscribed",
                                                     "not subscribed yet",
                                                     "no longer subscribed",
                                                     "its channel had ended",
                                                     "paused",
                                                     "asleep, with what its subscriber follows",
                                                     "outside its period",
                                                     "condition did not hold",
                                                     "filtered by its pipeline",
                                                     "stopped by a verdict",
                                                     "for another address",
                                                     "refused, nested too deeply",
                                                     "failed: its handler threw",
                                                     "not recorded, too much for a line"};
    return std::string{texts[static_cast<std::size_t>(why)]};
}

namespace {

unheard_reason of_turn(turn why) noexcept {
    switch (why) {
    case turn::paused:
        return unheard_reason::paused;
    case turn::asleep:
        return unheard_reason::asleep;
    case turn::outside_period:
        return unheard_reason::outside_period;
    case turn::filtered:
        return unheard_reason::filtered;
    case turn::stopped:
        return unheard_reason::stopped;
    case turn::failed:
        return unheard_reason::failed;
    default:
        return unheard_reason::condition;
    }
}

/// Collects hindrances, event by event.
class examination {
public:
    examination(const run& of, const run_filter& filter)
        : run_(of), filter_(filter), channel_(of.channel_named(filter.channel)) {
        found_.channel = filter.channel;
        found_.party = filter.party;
        found_.first_frame = filter.first_frame;
        found_.last_frame = filter.last_frame;
        for (const auto& [number, s] : of.subscriptions) {
            if (s.channel == channel_ && (filter.party.empty() || of.name_of(number) == filter.party)) {
                mine_.push_back(&s);
            }
        }
    }

    why_not_answer examine() {
        posts();
        for (const recorded_event& e : run_.events) {
            if (e.is_post || e.channel != channel_ ||
                (!filter_.address.empty() && run_.texts[e.to] != filter_.address)) {
                continue;
            }
            if (e.frame < filter_.first_frame) {
                found_.before = e.frame;
            } else if (e.frame > filter_.last_frame) {
                found_.after = std::min(found_.after, e.frame);
            } else {
                look_at(e);
            }
        }
        if (found_.published == 0 && reasons_.empty()) { // what was posted says more
            add(unheard_reason::nobody_published, nullptr, filter_.first_frame, "", "");
        }
        for (auto& [key, reason] : reasons_) {
            found_.reasons.push_back(reason);
        }
        std::stable_sort(found_.reasons.begin(), found_.reasons.end(),
                         [](const reason_found& a, const reason_found& b) { return a.events > b.events; });
        return std::move(found_);
    }

private:
    void add(unheard_reason why, const recorded_event* e, std::uint32_t frame, std::string where, std::string more) {
        reason_found& reason = reasons_.try_emplace(std::pair(why, where + more), reason_found{}).first->second;
        if (reason.events++ == 0) {
            reason.why = why;
            reason.example = e != nullptr ? e->id : 0;
            reason.frame = frame;
            reason.where = std::move(where);
            reason.more = std::move(more);
        }
        if (e == nullptr) {
            reason.events = 0;
        }
    }

    // What was posted and has not come out.
    void posts() {
        std::set<std::uint64_t> delivered;
        for (const recorded_event& e : run_.events) {
            if (!e.is_post && e.channel == channel_) {
                delivered.insert(e.cause);
            }
        }
        for (const recorded_event& e : run_.events) {
            if (!e.is_post || e.channel != channel_ || e.frame < filter_.first_frame || e.frame > filter_.last_frame) {
                continue;
            }
            const std::string& at = run_.texts[e.at];
            if (e.turned_away) {
                add(unheard_reason::turned_away, &e, e.frame, at, "outbox '" + run_.texts[e.outbox] + "'");
            } else if (!delivered.contains(e.id)) {
                const bool replaced = combined_later(e);
                add(replaced ? unheard_reason::combined : unheard_reason::waits_in_outbox, &e, e.frame, at,
                    "outbox '" + run_.texts[e.outbox] + "'");
            }
        }
    }

    // A later post of the same outbox went into this one, and was delivered in its stead.
    [[nodiscard]] bool combined_later(const recorded_event& e) const {
        for (const recorded_event* next = &e + 1; next != run_.events.data() + run_.events.size(); ++next) {
            if (next->channel == e.channel && next->outbox == e.outbox) {
                if (next->is_post && next->combined) {
                    return true;
                }
            }
            if (next->frame > e.frame + 1) {
                return false;
            }
        }
        return false;
    }

    void look_at(const recorded_event& e) {
        ++found_.published;
        if (e.refused) {
            add(unheard_reason::too_deep, &e, e.frame, run_.texts[e.at], "");
            return;
        }
        if (mine_.empty()) {
            add(unheard_reason::nobody_subscribed, &e, e.frame, run_.texts[e.at], others());
            return;
        }
        if (was_heard(e)) {
            found_.first_heard = found_.heard++ == 0 ? e.id : found_.first_heard;
            return;
        }
        const recorded_subscription* const s = nearest_to(e);
        if (const recorded_miss* const miss = miss_of(e); miss != nullptr) {
            const recorded_subscription& missed = run_.subscriptions.at(miss->subscription);
            const bool was_silent = miss->why == turn::paused || miss->why == turn::asleep;
            add(of_turn(miss->why), &e, e.frame, missed.at, was_silent ? since_pause(missed, e) : "");
        } else if (s->after >= e.id) {
            add(unheard_reason::not_yet, &e, e.frame, s->at, "it came in frame " + std::to_string(s->since));
        } else if (s->until != UINT32_MAX && s->until <= e.frame) {
            add(s->closed ? unheard_reason::channel_ended : unheard_reason::no_longer, &e, e.frame, s->at,
                "it left in frame " + std::to_string(s->until));
        } else if (!s->to.empty() && s->to != run_.texts[e.to] && e.to != 0) {
            add(unheard_reason::other_address, &e, e.frame, s->at, "it listens at " + s->to);
        } else if (e.is_cut) {
            add(unheard_reason::not_recorded, &e, e.frame, s->at, "");
        } else if (e.stopped) {
            add(unheard_reason::stopped, &e, e.frame, stopper_line(e), "by " + run_.name_of(e.stopped_by));
        } else {
            add(unheard_reason::other_address, &e, e.frame, s->at, s->to.empty() ? "" : "it listens at " + s->to);
        }
    }

    [[nodiscard]] std::string others() const {
        std::set<std::string> names;
        for (const auto& [number, s] : run_.subscriptions) {
            if (s.channel == channel_) {
                names.insert(run_.name_of(number));
            }
        }
        std::string list;
        for (const std::string& name : names) {
            list += (list.empty() ? "" : ", ") + name;
        }
        return list.empty() ? "nobody ever did" : "these did: " + list;
    }

    [[nodiscard]] std::string stopper_line(const recorded_event& e) const {
        const auto found = run_.subscriptions.find(e.stopped_by);
        return found != run_.subscriptions.end() ? found->second.at : "";
    }

    static std::string since_pause(const recorded_subscription& s, const recorded_event& e) {
        for (const recorded_pause& p : s.pauses) {
            if (p.from <= e.frame && p.until >= e.frame) {
                return "since frame " + std::to_string(p.from) +
                       (p.until == UINT32_MAX ? "" : " until frame " + std::to_string(p.until));
            }
        }
        return "";
    }

    [[nodiscard]] bool is_mine(std::uint32_t subscription) const {
        return std::any_of(mine_.begin(), mine_.end(), [=](const auto* s) { return s->number == subscription; });
    }
    [[nodiscard]] bool was_heard(const recorded_event& e) const {
        for (std::uint32_t i = 0; i < e.heard; ++i) {
            if (filter_.party.empty() || is_mine(run_.heard[e.first_heard + i])) {
                return true;
            }
        }
        return false;
    }
    [[nodiscard]] const recorded_miss* miss_of(const recorded_event& e) const {
        for (std::uint32_t i = 0; i < e.missed; ++i) {
            if (is_mine(run_.missed[e.first_missed + i].subscription)) {
                return &run_.missed[e.first_missed + i];
            }
        }
        return nullptr;
    }

    // The subscription that had the best chance of hearing it.
    [[nodiscard]] const recorded_subscription* nearest_to(const recorded_event& e) const {
        const recorded_subscription* best = mine_.front();
        int best_score = -1;
        for (const recorded_subscription* s : mine_) {
            const bool was_there = s->after < e.id;
            const bool still_there = s->until == UINT32_MAX || s->until > e.frame;
            const bool addressed = s->to.empty() || e.to == 0 || s->to == run_.texts[e.to];
            const int score = (was_there && still_there ? 4 : 0) + (addressed ? 2 : 0) + (was_there ? 1 : 0);
            if (score >= best_score) {
                best_score = score;
                best = s;
            }
        }
        return best;
    }

    const run& run_;
    const run_filter& filter_;
    std::uint32_t channel_;
    std::vector<const recorded_subscription*> mine_;
    why_not_answer found_;
    std::map<std::pair<unheard_reason, std::string>, reason_found> reasons_;
};

} // namespace

why_not_answer why_not(const run& of, const run_filter& filter) {
    return examination(of, filter).examine();
}

namespace {

/// Whose handler published on a channel, and what it had heard.
struct usual_maker {
    std::uint32_t party = 0; ///< text
    std::uint32_t heard = 0; ///< channel
    std::uint64_t events = 0;
};

// Of what the party heard, if it ever heard anything there.
usual_maker usual_maker_of(const run& of, std::uint32_t channel, const std::string& party) {
    std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> counts;
    run_filter heard;
    heard.party = party;
    const run_selection concerns(of, heard);
    bool any_heard = false;
    for (const recorded_event& e : of.events) {
        const bool is_heard = e.channel == channel && e.in_handler != 0 && concerns(e);
        if (e.channel != channel || e.in_handler == 0 || (any_heard && !is_heard)) {
            continue;
        }
        if (is_heard && !any_heard) {
            any_heard = true;
            counts.clear();
        }
        if (const auto by = of.subscriptions.find(e.in_handler); by != of.subscriptions.end()) {
            ++counts[{by->second.who, by->second.channel}];
        }
    }
    usual_maker most;
    for (const auto& [made, events] : counts) {
        if (events > most.events) {
            most = {made.first, made.second, events};
        }
    }
    return most;
}

} // namespace

std::vector<why_not_answer> why_not_path(const run& of, const run_filter& filter) {
    constexpr std::size_t most_steps = 16;
    std::vector<why_not_answer> path{why_not(of, filter)};
    std::set<std::uint32_t> asked{of.channel_named(filter.channel)};
    run_filter next = filter;
    while (path.back().published == 0 && path.size() < most_steps) {
        const std::uint32_t channel = of.channel_named(path.back().channel);
        const usual_maker maker = usual_maker_of(of, channel, path.back().party);
        if (maker.events == 0 || !asked.insert(maker.heard).second) {
            break;
        }
        next.party = of.texts[maker.party];
        next.channel = of.channels[maker.heard].name;
        next.address.clear(); // which was that of the end
        path.push_back(why_not(of, next));
    }
    return path;
}

WIRED_COURIER_NAMESPACE_END
