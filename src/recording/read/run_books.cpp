// SPDX-License-Identifier: MIT
// The books that a ledger would have kept, from a recording.
#include "recording/read/code_line_in.hpp"

#include <courier/recording/run.hpp>

#include <algorithm>
#include <map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

/// Makes the books; each member fills in one list of them.
class bookkeeper {
public:
    explicit bookkeeper(const run& of) : run_(of) {}

    books make() {
        books_.frames = run_.frames();
        books_.time = run_.frame_times.empty() ? 0 : run_.frame_times.back();
        books_.events = run_.events.size() + run_.forgotten;
        books_.waiting = run_.waiting;
        books_.left_waiting = run_.left_waiting;
        books_.systems = run_.systems;
        books_.phases = run_.phases;
        books_.idle_refreshers = run_.idle_refreshers;
        books_.circles = run_.circles;
        books_.orders = run_.orders;
        books_.accepted = run_.accepted;
        books_.channels.assign(run_.channels.begin(), run_.channels.end());
        for (const recorded_publisher& one : run_.publishers) {
            books_.publishers.push_back(one.sums);
        }
        subscribes();
        subscriptions();
        parties();
        return std::move(books_);
    }

private:
    void subscribes() {
        std::map<std::pair<std::uint32_t, std::string>, std::size_t> known;
        std::vector<handler_time_counts> took;
        std::vector<std::vector<std::pair<std::uint32_t, int>>> steps;
        for (const auto& [number, s] : run_.subscriptions) {
            const auto [found, is_new] = known.emplace(std::pair(s.channel, s.at), books_.subscribes.size());
            if (is_new) {
                subscribe_site_books& made = books_.subscribes.emplace_back();
                made.channel = run_.channels[s.channel].name;
                made.subscriber = s.name;
                made.where = detail::code_line_in(s.at);
                made.first_frame = s.since;
                took.emplace_back();
                steps.emplace_back();
            }
            subscribe_site_books& sums = books_.subscribes[found->second];
            ++sums.made;
            sums.live += s.until == UINT32_MAX ? 1U : 0U;
            sums.turns.add(s.turns);
            if (s.took) {
                took[found->second].add(*s.took);
            }
            steps[found->second].emplace_back(s.since, 1);
            if (s.until != UINT32_MAX) {
                steps[found->second].emplace_back(s.until, -1);
            }
        }
        for (std::size_t i = 0; i < books_.subscribes.size(); ++i) {
            books_.subscribes[i].times = took[i].sum_up();
            count_live(books_.subscribes[i], steps[i]);
        }
    }

    // At the end of every so many frames.
    void count_live(subscribe_site_books& sums, std::vector<std::pair<std::uint32_t, int>>& steps) const {
        constexpr std::uint64_t most = 64;
        while (run_.frames() / sums.past_every > most) {
            sums.past_every *= 2;
        }
        std::sort(steps.begin(), steps.end());
        std::size_t next = 0;
        std::int64_t live = 0;
        for (std::uint64_t frame = sums.first_frame / sums.past_every * sums.past_every; frame < run_.frames();
             frame += sums.past_every) {
            for (; next < steps.size() && steps[next].first <= frame; ++next) {
                live += steps[next].second;
            }
            sums.past.push_back(static_cast<std::uint64_t>(std::max<std::int64_t>(live, 0)));
        }
    }

    void subscriptions() {
        for (const auto& [number, s] : run_.subscriptions) {
            if (s.until != UINT32_MAX) {
                continue;
            }
            const channel_books& on = books_.channels[s.channel];
            subscription_books& copy = books_.subscriptions.emplace_back();
            copy.number = number;
            copy.channel = on.name;
            copy.subscriber = s.name;
            copy.where = detail::code_line_in(s.at);
            copy.stage = s.stage;
            copy.address = s.to;
            copy.paused = !s.pauses.empty() && s.pauses.back().until == UINT32_MAX;
            copy.since_frame = s.since;
            copy.since_time = s.since <= run_.frames() ? run_.begin_of(s.since) : 0;
            copy.published_since = on.published - std::min(on.published, s.published_before);
            copy.handler = s.handler;
            copy.turns = s.turns;
            copy.times = s.took ? s.took->sum_up() : handler_times{};
        }
    }

    void parties() {
        for (const auto& [number, p] : run_.parties) {
            if (p.ended || p.lost == 0) {
                continue;
            }
            const recorded_subscription& last = run_.subscriptions.at(p.last_lost);
            books_.parties.push_back({p.name, p.live, p.lost, run_.channels[last.channel].name,
                                      detail::code_line_in(last.at), p.lost_frame});
        }
    }

    const run& run_;
    books books_;
};

} // namespace

books books_of(const run& of) {
    return bookkeeper(of).make();
}

WIRED_COURIER_NAMESPACE_END
