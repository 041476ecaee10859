// SPDX-License-Identifier: MIT
#include <courier/recording/statistics.hpp>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

run_statistics statistics_of(const run& of, const run_filter& filter) {
    run_statistics sums;
    const std::uint32_t newest = of.events.empty() ? 0 : of.events.back().frame + 1;
    const std::uint32_t past = std::max(of.frames(), newest);
    const std::uint32_t until = filter.last_frame == UINT32_MAX ? past : std::min(past, filter.last_frame + 1);
    sums.first_frame = std::min(std::max(filter.first_frame, of.first_frame), until);
    sums.frames = until - sums.first_frame;
    sums.by_frame.resize(sums.frames);
    std::vector<channel_statistics> all(of.channels.size());
    for (std::size_t i = 0; i < all.size(); ++i) {
        all[i].channel = of.channels[i].name;
        all[i].by_frame.resize(sums.frames);
    }
    const bool narrowed =
        !filter.channel.empty() || !filter.party.empty() || !filter.address.empty() || !filter.phase.empty();
    const run_selection selected(of, filter);
    for (const recorded_event& e : of.events) {
        if (e.frame < sums.first_frame || e.frame >= until || (narrowed && !selected(e))) {
            continue;
        }
        channel_statistics& c = all[e.channel];
        if (e.is_post) {
            ++c.posted;
            continue;
        }
        ++c.published;
        c.deliveries += e.deliveries();
        c.unheard += e.was_unheard() ? 1U : 0U;
        c.stopped += e.stopped ? 1U : 0U;
        ++sums.events;
        ++sums.by_frame[e.frame - sums.first_frame];
        const std::uint32_t in_frame = ++c.by_frame[e.frame - sums.first_frame];
        if (in_frame > c.max_in_frame) {
            c.max_in_frame = in_frame;
            c.busiest_frame = e.frame;
        }
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
        channel_statistics& c = all[i];
        if (!of.channels[i].is_owned && (!narrowed || c.published + c.posted != 0)) {
            sums.channels.push_back(std::move(c));
        }
    }
    std::stable_sort(sums.channels.begin(), sums.channels.end(),
                     [](const auto& a, const auto& b) { return a.published > b.published; });
    sums.slowest = slowest_handlers(of, filter);
    return sums;
}

namespace {

// A publish in which so many frames end is none that there is.
constexpr std::uint32_t most_frames_open = 16;

} // namespace

run_rates rates_of(const run& of, const run_filter& filter, std::uint32_t span) {
    run_rates rates;
    const std::uint32_t until = filter.last_frame < of.frames() ? filter.last_frame + 1 : of.frames();
    const std::uint32_t begin = std::min(std::max(of.first_frame, filter.first_frame), until);
    rates.frames = std::min(span, until - begin);
    rates.first_frame = until - rates.frames;
    for (std::uint32_t frame = rates.first_frame; frame < until; ++frame) {
        rates.seconds +=
            static_cast<double>(std::max<std::int64_t>(of.begin_of(frame + 1) - of.begin_of(frame), 0)) / 1e9;
    }
    std::vector<channel_rate> all(of.channels.size());
    const run_selection selected(of, filter);
    const bool narrowed = filter.narrow();
    for (std::size_t i = 0; i < all.size() && !narrowed; ++i) { // which was counted while it was read
        all[i].published = of.channels[i].published;
        all[i].deliveries = of.channels[i].deliveries;
        all[i].unheard = of.channels[i].unheard;
        all[i].latest = of.channels[i].newest;
    }
    if (!narrowed) {
        for (const auto& [number, one] : of.subscriptions) {
            all[one.channel].failed += one.turns[turn::failed];
        }
    }
    for (auto e = of.events.rbegin(); e != of.events.rend(); ++e) {
        if (!narrowed && e->frame + most_frames_open < rates.first_frame) {
            break; // all before are older
        }
        if (e->is_post || (narrowed && !selected(*e))) {
            continue;
        }
        channel_rate& c = all[e->channel];
        c.latest = std::max(c.latest, e->id);
        c.by_frame.resize(rates.frames);
        if (e->frame - rates.first_frame < rates.frames) { // earlier ones wrap around
            ++c.by_frame[e->frame - rates.first_frame];
        }
        if (narrowed) {
            ++c.published;
            c.deliveries += e->deliveries();
            c.unheard += e->was_unheard() ? 1U : 0U;
            c.failed += e->failed;
        }
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
        channel_rate& c = all[i];
        if (c.published != 0) {
            const recorded_event* const newest = of.find(of.channels[i].newest);
            c.lost_listeners = of.channels[i].deliveries != 0 && of.channels[i].live.empty() && newest != nullptr &&
                               newest->was_unheard();
            c.channel = of.channels[i].name;
            c.by_frame.resize(rates.frames);
            rates.channels.push_back(std::move(c));
        }
    }
    std::stable_sort(rates.channels.begin(), rates.channels.end(),
                     [](const auto& a, const auto& b) { return a.published > b.published; });
    return rates;
}

std::vector<handler_statistics> slowest_handlers(const run& of, const run_filter& filter, std::size_t most) {
    std::unordered_map<std::uint32_t, handler_statistics> by_subscription;
    const run_selection selected(of, filter);
    for (const recorded_event& e : of.events) {
        if (e.timed == 0 || !selected(e)) {
            continue;
        }
        for (std::uint32_t i = 0; i < e.timed; ++i) {
            const recorded_time& took = of.took[e.first_took + i];
            handler_statistics& one = by_subscription[took.subscription];
            ++one.calls;
            one.total_ns += took.ns;
            if (took.ns > one.longest_ns || one.longest == 0) {
                one.longest_ns = took.ns;
                one.longest = e.id;
            }
        }
    }
    std::vector<std::pair<std::uint32_t, handler_statistics>> sorted(by_subscription.begin(), by_subscription.end());
    const auto end = sorted.begin() + static_cast<std::ptrdiff_t>(std::min(most, sorted.size()));
    std::partial_sort(sorted.begin(), end, sorted.end(), [](const auto& a, const auto& b) {
        return std::pair(b.second.longest_ns, a.first) < std::pair(a.second.longest_ns, b.first);
    });
    std::vector<handler_statistics> slowest;
    for (auto at = sorted.begin(); at != end; ++at) {
        handler_statistics& one = slowest.emplace_back(std::move(at->second));
        one.party = of.name_of(at->first);
        if (const auto found = of.subscriptions.find(at->first); found != of.subscriptions.end()) {
            one.channel = of.channels[found->second.channel].name;
            one.at = found->second.at;
        }
    }
    return slowest;
}

WIRED_COURIER_NAMESPACE_END
