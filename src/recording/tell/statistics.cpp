#include <courier/recording/statistics.hpp>

#include <algorithm>
#include <utility>

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
    return sums;
}

namespace {

// A publish in which so many frames end is none that there is.
constexpr std::uint32_t most_frames_open = 16;

} // namespace

run_rates rates_of(const run& of, const run_filter& filter, std::uint32_t span) {
    run_rates rates;
    rates.frames = std::min(span, of.frames() - of.first_frame);
    rates.first_frame = of.frames() - rates.frames;
    for (std::uint32_t frame = rates.first_frame; frame < of.frames(); ++frame) {
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
        }
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (all[i].published != 0) {
            all[i].channel = of.channels[i].name;
            all[i].by_frame.resize(rates.frames);
            rates.channels.push_back(std::move(all[i]));
        }
    }
    std::stable_sort(rates.channels.begin(), rates.channels.end(),
                     [](const auto& a, const auto& b) { return a.published > b.published; });
    return rates;
}

WIRED_COURIER_NAMESPACE_END
