#include <courier/recording/statistics.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN

run_statistics statistics_of(const run& of, const run_filter& filter) {
    run_statistics sums;
    const std::uint32_t newest = of.events.empty() ? 0 : of.events.back().frame + 1;
    const std::uint32_t past = std::max(of.frames(), newest);
    const std::uint32_t until = filter.last_frame == UINT32_MAX ? past : std::min(past, filter.last_frame + 1);
    sums.first_frame = std::min(filter.first_frame, until);
    sums.frames = until - sums.first_frame;
    sums.by_frame.resize(sums.frames);
    std::vector<channel_statistics> all(of.channels.size());
    for (std::size_t i = 0; i < all.size(); ++i) {
        all[i].channel = of.channels[i].name;
        all[i].by_frame.resize(sums.frames);
    }
    const bool narrowed = !filter.channel.empty() || !filter.party.empty() || !filter.address.empty();
    for (const recorded_event& e : of.events) {
        if (e.frame < sums.first_frame || e.frame >= until || (narrowed && !filter.matches(of, e))) {
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
        if (in_frame > c.most_in_frame) {
            c.most_in_frame = in_frame;
            c.busiest_frame = e.frame;
        }
    }
    for (channel_statistics& c : all) {
        if (!narrowed || c.published + c.posted != 0) {
            sums.channels.push_back(std::move(c));
        }
    }
    std::stable_sort(sums.channels.begin(), sums.channels.end(),
                     [](const auto& a, const auto& b) { return a.published > b.published; });
    return sums;
}

WIRED_COURIER_NAMESPACE_END
