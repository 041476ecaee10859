// The books that a ledger would have kept, from a recording.
#include "recording/read/code_line_in.hpp"

#include <courier/recording/run.hpp>

#include <algorithm>
#include <bit>
#include <map>
#include <tuple>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

handler_times times_of(std::vector<std::uint32_t> took) {
    if (took.empty()) {
        return {};
    }
    std::sort(took.begin(), took.end());
    const std::uint32_t middle = took[(took.size() - 1) / 2];
    const std::uint64_t bucket = (std::uint64_t{1} << std::bit_width(middle)) - 1;
    return {took.size(), took.back(), std::min<std::uint64_t>(bucket, took.back())};
}

/// Makes the books; each member fills in one list of them.
class bookkeeper {
public:
    explicit bookkeeper(const run& of) : run_(of) {}

    books make() {
        books_.frames = run_.frames();
        books_.time = run_.frame_times.empty() ? 0 : run_.frame_times.back();
        books_.events = run_.events.size();
        books_.waiting = run_.waiting;
        books_.left_waiting = run_.left_waiting;
        books_.systems = run_.systems;
        books_.phases = run_.phases;
        books_.accepted = run_.accepted;
        channels();
        publishers();
        subscribes();
        subscriptions();
        parties();
        circles();
        orders();
        return std::move(books_);
    }

private:
    void channels() {
        for (const recorded_channel& c : run_.channels) {
            channel_books& sums = books_.channels.emplace_back();
            sums.name = c.name;
            sums.payload = c.payload;
            sums.hub = c.hub;
            sums.is_query = c.is_query;
            sums.open = c.open;
        }
        std::vector<std::uint64_t> in_frame(run_.channels.size());
        for (const recorded_event& e : run_.events) {
            channel_books& sums = books_.channels[e.channel];
            if (e.is_post) {
                ++sums.posted;
                sums.combined += e.combined ? 1U : 0U;
                sums.turned_away += e.turned_away ? 1U : 0U;
                continue;
            }
            if (sums.published++ == 0) {
                sums.first_frame = e.frame;
            }
            if (sums.frames == 0 || sums.last_frame != e.frame) {
                ++sums.frames;
                in_frame[e.channel] = 0;
            }
            sums.last_frame = e.frame;
            sums.most_in_frame = std::max(sums.most_in_frame, ++in_frame[e.channel]);
            sums.deliveries += e.deliveries();
            sums.unheard += e.was_unheard() ? 1U : 0U;
            sums.refused += e.refused ? 1U : 0U;
            sums.stopped += e.stopped ? 1U : 0U;
            sums.vacant += e.vacant ? 1U : 0U;
        }
    }

    void publishers() {
        std::map<std::tuple<std::uint32_t, std::uint32_t, std::uint32_t>, std::size_t> known;
        for (const recorded_event& e : run_.events) {
            const auto [found, is_new] = known.emplace(std::tuple(e.channel, e.at, e.by), books_.publishers.size());
            if (is_new) {
                publisher_books& made = books_.publishers.emplace_back();
                made.channel = run_.channels[e.channel].name;
                made.name = run_.texts[e.by];
                made.where = detail::code_line_in(run_.texts[e.at]);
            }
            if (e.is_post) {
                continue;
            }
            publisher_books& sums = books_.publishers[found->second];
            if (sums.published++ == 0) {
                sums.first_frame = e.frame;
            }
            sums.frames += sums.frames == 0 || sums.last_frame != e.frame ? 1U : 0U;
            sums.last_frame = e.frame;
            sums.unheard += e.was_unheard() ? 1U : 0U;
            sums.vacant += e.vacant ? 1U : 0U;
        }
    }

    void subscribes() {
        std::map<std::pair<std::uint32_t, std::string>, std::size_t> known;
        std::vector<std::vector<std::uint32_t>> took;
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
            auto& all = took[found->second];
            all.insert(all.end(), s.took.begin(), s.took.end());
            steps[found->second].emplace_back(s.since, 1);
            if (s.until != UINT32_MAX) {
                steps[found->second].emplace_back(s.until, -1);
            }
        }
        for (std::size_t i = 0; i < books_.subscribes.size(); ++i) {
            books_.subscribes[i].times = times_of(std::move(took[i]));
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
            copy.times = times_of(s.took);
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

    [[nodiscard]] const recorded_event* cause_of(const recorded_event& e) const {
        const recorded_event* cause = run_.find(e.cause);
        while (cause != nullptr && cause->is_post) {
            cause = run_.find(cause->cause);
        }
        return cause;
    }

    // As a ledger does it; see note_circle().
    void circles() {
        std::vector<std::uint64_t> ancestors(run_.events.size());
        std::map<std::vector<std::uint32_t>, std::size_t> known;
        for (std::size_t i = 0; i < run_.events.size(); ++i) {
            const recorded_event& e = run_.events[i];
            if (const recorded_event* const parent = run_.find(e.cause); parent != nullptr) {
                ancestors[i] = ancestors[static_cast<std::size_t>(parent - run_.events.data())] |
                               (parent->is_post ? 0 : std::uint64_t{1} << (parent->channel & 63));
            }
            if (!e.is_post && ((ancestors[i] >> (e.channel & 63)) & 1) != 0) {
                cycle_at(e, known);
            }
        }
    }
    static constexpr std::size_t most_steps = 4096; ///< back along one chain

    void cycle_at(const recorded_event& e, std::map<std::vector<std::uint32_t>, std::size_t>& known) {
        std::vector<std::uint32_t> round;
        std::uint64_t rounds = 0;
        std::size_t left = most_steps; // causes come before, but a long chain has many links for each of its own
        for (const recorded_event* c = cause_of(e); c != nullptr && left != 0; c = cause_of(*c), --left) {
            if (rounds == 0) {
                round.push_back(c->channel);
            }
            rounds += c->channel == e.channel ? 1U : 0U;
        }
        if (rounds == 0) {
            return;
        }
        std::reverse(round.begin(), round.end());
        std::rotate(round.begin(), std::min_element(round.begin(), round.end()), round.end());
        const auto [found, is_new] = known.emplace(round, books_.circles.size());
        if (is_new) {
            circle_books& made = books_.circles.emplace_back();
            for (const std::uint32_t channel : round) {
                made.channels.push_back(run_.channels[channel].name);
            }
            made.channels.push_back(made.channels.front());
            made.where = detail::code_line_in(run_.texts[e.at]);
            made.first_frame = e.frame;
        }
        circle_books& sums = books_.circles[found->second];
        ++sums.times;
        sums.longest = std::max(sums.longest, rounds);
    }

    using pair_key = std::tuple<std::uint32_t, std::string, std::string, order_matter, std::uint32_t>;

    void orders() {
        std::map<pair_key, std::size_t> known;
        for (const recorded_event& e : run_.events) {
            if (e.stopped && e.stopped_by != 0) {
                stopped_pairs(e, known);
            }
        }
        if (const auto shaken = run_.facts.find("shake"); shaken != run_.facts.end() && shaken->second != "0") {
            telling_pairs(known);
        }
    }

    [[nodiscard]] bool was_there(const recorded_subscription& s, const recorded_event& e) const {
        return s.channel == e.channel && s.after < e.id && (s.until == UINT32_MAX || s.until > e.frame);
    }

    using numbered_subscription = std::pair<const std::uint32_t, recorded_subscription>;

    const std::vector<const numbered_subscription*>& subscriptions_of(std::uint32_t channel) {
        if (by_channel_.empty()) {
            by_channel_.resize(run_.channels.size());
            for (const numbered_subscription& one : run_.subscriptions) {
                by_channel_[one.second.channel].push_back(&one);
            }
        }
        return by_channel_[channel];
    }

    void stopped_pairs(const recorded_event& e, std::map<pair_key, std::size_t>& known) {
        const auto by = run_.subscriptions.find(e.stopped_by);
        if (by == run_.subscriptions.end() || e.to != 0) {
            return;
        }
        for (const numbered_subscription* const one : subscriptions_of(e.channel)) {
            const auto& [number, s] = *one;
            if (number != e.stopped_by && was_there(s, e) && s.stage == by->second.stage && s.at != by->second.at &&
                !had_turn(e, number)) {
                add_pair(by->second, s, order_matter::stops, 0, e.frame, known);
            }
        }
    }

    [[nodiscard]] bool had_turn(const recorded_event& e, std::uint32_t number) const {
        for (std::uint32_t i = 0; i < e.heard; ++i) {
            if (run_.heard[e.first_heard + i] == number) {
                return true;
            }
        }
        for (std::uint32_t i = 0; i < e.missed; ++i) {
            if (run_.missed[e.first_missed + i].subscription == number) {
                return true;
            }
        }
        return false;
    }

    // Two handlers of one event and stage that both publish or post on one channel.
    void telling_pairs(std::map<pair_key, std::size_t>& known) {
        std::map<std::pair<std::uint64_t, std::uint32_t>, std::vector<const recorded_event*>> told;
        for (const recorded_event& e : run_.events) {
            if (const recorded_event* const cause = run_.find(e.cause);
                cause != nullptr && !cause->is_post && e.in_handler != 0) {
                told[{e.cause, e.channel}].push_back(&e);
            }
        }
        for (const auto& [key, all] : told) {
            for (std::size_t i = 1; i < all.size(); ++i) {
                const auto one = run_.subscriptions.find(all[i - 1]->in_handler);
                const auto other = run_.subscriptions.find(all[i]->in_handler);
                if (one != run_.subscriptions.end() && other != run_.subscriptions.end() && one != other &&
                    one->second.channel == other->second.channel && one->second.stage == other->second.stage &&
                    one->second.at != other->second.at) {
                    const bool swapped = other->first < one->first;
                    add_pair((swapped ? other : one)->second, (swapped ? one : other)->second,
                             order_matter::both_publish, key.second, all[i]->frame, known);
                }
            }
        }
    }

    void add_pair(const recorded_subscription& first, const recorded_subscription& second, order_matter how,
                  std::uint32_t on, std::uint32_t frame, std::map<pair_key, std::size_t>& known) {
        const auto [found, is_new] =
            known.emplace(pair_key{first.channel, first.at, second.at, how, on}, books_.orders.size());
        if (is_new) {
            books_.orders.push_back({run_.channels[first.channel].name, detail::code_line_in(first.at),
                                     detail::code_line_in(second.at), first.name, second.name, how,
                                     how == order_matter::both_publish ? run_.channels[on].name : "", 0, frame});
        }
        ++books_.orders[found->second].times;
    }

    const run& run_;
    books books_;
    std::vector<std::vector<const numbered_subscription*>> by_channel_;
};

} // namespace

books books_of(const run& of) {
    return bookkeeper(of).make();
}

WIRED_COURIER_NAMESPACE_END
