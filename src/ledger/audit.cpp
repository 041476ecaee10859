// SPDX-License-Identifier: MIT
#include <courier/audit.hpp>

#include "ledger/audit_text.hpp"
#include "ledger/finding_list.hpp"

#include <algorithm>
#include <array>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

using detail::quoted;
using detail::reasons;
using detail::times;
using detail::waiting_text;
using detail::who;

namespace {

/// The books and what is asked of them; each rule is a member.
class auditor : private detail::finding_list {
public:
    auditor(const books& its_books, const audit_options& its_options)
        : finding_list(its_books, its_options), publishers_(sorted_by_channel(of.publishers)),
          subscribes_(sorted_by_channel(of.subscribes)) {
        for (const channel_books& one : of.channels) {
            channels_.emplace(one.name, &one); // of two with one name, the first
        }
        for (const subscription_books& one : of.subscriptions) {
            if (one.turns[turn::served] != 0) {
                served_.emplace(one.where.text(), one.subscriber);
            }
        }
    }

    audit_report run() {
        growing();
        outlived();
        never_served();
        unheard();
        never_published();
        nobody_there();
        handler_twice();
        could_be_local();
        every_frame();
        over_budget();
        circles();
        find_nothing_seen(*this);
        waiting();
        find_orders(*this);
        find_left_waiting(*this);
        unexpected();
        find_reads_nothing(*this);
        accept();
        return std::move(report);
    }

private:
    [[nodiscard]] const channel_books* channel(const std::string& name) const noexcept {
        const auto found = channels_.find(name);
        return found != channels_.end() ? found->second : nullptr;
    }

    // What the library announces whether or not anybody asks, such as who joins a group.
    static bool is_offered(const channel_books& c) { return c.payload.starts_with("courier::"); }

    template <class Site>
    using by_channel = std::unordered_map<std::string_view, std::vector<const Site*>>;

    template <class Site>
    static by_channel<Site> sorted_by_channel(const std::vector<Site>& sites) {
        by_channel<Site> made;
        for (const Site& one : sites) {
            made[one.channel].push_back(&one);
        }
        return made;
    }
    template <class Site>
    static const std::vector<const Site*>& of_channel(const by_channel<Site>& all, const std::string& name) {
        static const std::vector<const Site*> none;
        const auto found = all.find(name);
        return found != all.end() ? found->second : none;
    }

    static void add_line(std::string& lines, const code_line& where) {
        lines += (lines.empty() ? "" : ", ") + where.text();
    }
    // Where somebody publishes on a channel.
    [[nodiscard]] std::string publish_lines(const std::string& name) const {
        std::string lines;
        for (const publisher_books* const p : of_channel(publishers_, name)) {
            add_line(lines, p->where);
        }
        return lines.empty() ? "?" : lines;
    }
    [[nodiscard]] std::string subscribe_lines(const std::string& name) const {
        std::string lines;
        for (const subscribe_site_books* const s : of_channel(subscribes_, name)) {
            if (s->live != 0) {
                add_line(lines, s->where);
            }
        }
        return lines.empty() ? "?" : lines;
    }

    // More in each quarter than in the one before.
    void growing() {
        for (const subscribe_site_books& s : of.subscribes) {
            const std::size_t quarter = s.past.size() / 4;
            if (quarter < 2 || s.past.back() < s.past.front() + options.growth) {
                continue;
            }
            std::array<std::uint64_t, 4> sums{};
            for (std::size_t i = 0; i < quarter * 4; ++i) {
                sums[i / quarter] += s.past[s.past.size() - quarter * 4 + i];
            }
            if (sums[0] < sums[1] && sums[1] < sums[2] && sums[2] < sums[3]) {
                std::string path;
                for (std::size_t i = 0; i < 4; ++i) {
                    path += (i == 0 ? "" : ", ") + std::to_string(sums[i] / quarter);
                }
                const channel_books* const on = channel(s.channel);
                const bool is_owned = on != nullptr && on->is_owned;
                add(finding_code::growing,
                    (is_owned ? s.channel : std::string("subscriptions")) +
                        (s.subscriber.empty() ? "" : " of " + quoted(s.subscriber)) +
                        (is_owned ? "" : " to " + quoted(s.channel)) + " grow: " + std::to_string(s.live) +
                        " are live, " + std::to_string(s.made) + " were made (on average " + path +
                        " in the quarters of the run)",
                    s.where.text(),
                    is_owned ? "let a subscriber that ends with its object own them, or end each by its key"
                             : "let a courier::subscriber that ends with its object own the subscription, or keep the "
                               "returned subscription and end it",
                    s.channel, s.subscriber, s.first_frame);
            }
        }
    }

    void outlived() {
        constexpr std::uint64_t grace = 10; // frames; what ends together need not end in one
        for (const party_books& p : of.parties) {
            if (p.live == 0 && p.lost != 0 && (of.frames == 0 || of.frames - p.last_frame >= grace)) {
                add(finding_code::outlived,
                    who(p.name) + " is still there, and all it listened to is gone: " + std::to_string(p.lost) +
                        " of its subscriptions ended with their channel, " + quoted(p.last_channel) + " the last",
                    p.last_where.text(), "end it together with what it serves, or subscribe it to what comes next",
                    p.last_channel, p.name, p.last_frame);
            }
        }
    }

    // A line of code may make one subscription for each of many, such as the
    // sources of a pipeline; that some of these let everything fall is no mistake.
    [[nodiscard]] bool is_served_elsewhere(const subscription_books& s) const {
        return served_.contains({s.where.text(), s.subscriber});
    }

    void never_served() {
        constexpr std::uint64_t few = 3; // publishes
        for (const subscription_books& s : of.subscriptions) {
            if ((s.turns[turn::filtered] != 0 || s.turns[turn::condition] != 0) && is_served_elsewhere(s)) {
                continue;
            }
            // An object of a pool may sleep for as long as it likes.
            if (s.turns[turn::served] + s.turns[turn::failed] == 0 &&
                s.published_since >= few + s.turns[turn::asleep] && long_enough(s.since_frame)) {
                add(finding_code::never_served,
                    who(s.subscriber) + " was never served on " + quoted(s.channel) +
                        (s.address.empty() ? "" : " at address " + s.address) + ", though " +
                        std::to_string(s.published_since) + " were published since: " + reasons(s.turns),
                    s.where.text(), "see whether it is paused for good, or its period, condition or address is wrong",
                    s.channel, s.subscriber, s.since_frame);
            }
        }
    }

    [[nodiscard]] bool was_subscribed_to(const std::string& name) const { return subscribes_.contains(name); }

    void unheard() {
        for (const channel_books& c : of.channels) {
            // Somebody was there at other times; then it takes more to be a mistake.
            const std::uint64_t enough = was_subscribed_to(c.name) ? 10 : 1;
            if (c.published >= enough && c.deliveries == 0 && !is_offered(c)) {
                add(finding_code::unheard,
                    quoted(c.name) + " was published " + times(c.published) + " and nobody ever heard it",
                    publish_lines(c.name), "subscribe where it matters, or leave the publish out", c.name, "",
                    c.first_frame);
            }
        }
    }

    // By a sequence; that is another finding.
    [[nodiscard]] bool is_awaited(const subscription_books& s) const {
        return std::any_of(of.waiting.begin(), of.waiting.end(), [&](const waiting_books& w) {
            return w.channel == s.channel && w.subscriber == s.subscriber;
        });
    }

    void never_published() {
        std::set<std::string> told;
        for (const subscription_books& s : of.subscriptions) {
            const channel_books* const c = channel(s.channel);
            if (c != nullptr && !c->is_owned && c->published == 0 && c->posted == 0 && !is_offered(*c) &&
                !is_awaited(s) && long_enough(s.since_frame) && told.insert(s.channel).second) {
                add(finding_code::never_published,
                    who(s.subscriber) + " listens to " + quoted(s.channel) + ", on which nobody ever published",
                    subscribe_lines(s.channel),
                    "see whether the publisher is missing, or publishes on another channel of that payload", s.channel,
                    s.subscriber, s.since_frame);
            }
        }
    }

    void nobody_there() {
        constexpr std::uint64_t few = 3; // once may be a late one
        for (const publisher_books& p : of.publishers) {
            if (p.vacant >= few || (p.vacant != 0 && p.vacant == p.published)) {
                add(finding_code::nobody_there,
                    std::to_string(p.vacant) + " of " + std::to_string(p.published) + " payloads on " +
                        quoted(p.channel) + " were for an address at which nobody was",
                    p.where.text(), "see whether who is addressed has gone, or the address is wrong", p.channel, p.name,
                    p.first_frame);
            }
        }
    }

    void handler_twice() {
        std::set<std::pair<std::uint64_t, std::string>> seen;
        for (const subscription_books& s : of.subscriptions) {
            if (s.handler != 0 && !seen.emplace(s.handler, s.channel + "\n" + s.subscriber + "\n" + s.address).second) {
                add(finding_code::handler_twice,
                    who(s.subscriber) + " has the same handler twice on " + quoted(s.channel) + "; it is served twice",
                    s.where.text(), "end the first subscription, or leave one of the two out", s.channel, s.subscriber,
                    s.since_frame);
            }
        }
    }

    void could_be_local() {
        for (const channel_books& c : of.channels) {
            if (c.hub.empty() || c.is_query || c.deliveries == 0 || !long_enough(c.first_frame)) {
                continue;
            }
            std::set<std::string> publishers;
            std::uint64_t subscriptions = 0;
            for (const publisher_books* const p : of_channel(publishers_, c.name)) {
                publishers.insert(p->name.empty() ? p->where.file : p->name);
            }
            for (const subscribe_site_books* const s : of_channel(subscribes_, c.name)) {
                subscriptions += s->made;
            }
            if (publishers.size() == 1 && subscriptions == 1) {
                add(finding_code::could_be_local,
                    quoted(c.name) + " is in hub " + quoted(c.hub) + " with one publisher (" + *publishers.begin() +
                        ") and one subscriber",
                    publish_lines(c.name) + ", " + subscribe_lines(c.name),
                    "make it a channel of its publisher's; the hub is for what many need", c.name, "", c.first_frame);
            }
        }
    }

    void every_frame() {
        for (const channel_books& c : of.channels) {
            const std::uint64_t span = c.last_frame - c.first_frame + 1;
            if (!c.is_query && c.frames >= options.patience && c.frames * 100 >= span * 95 &&
                c.last_frame + 2 >= of.frames) {
                add(finding_code::every_frame,
                    quoted(c.name) + " was published in " + std::to_string(c.frames) + " of " + std::to_string(span) +
                        " frames, at most " + times(c.max_in_frame) + " a frame",
                    publish_lines(c.name),
                    "if only the latest counts, make it a courier::state, which tells when it has changed, or post it "
                    "through an outbox that keeps one; if each counts, say so with courier::accept_finding()",
                    c.name, "", c.first_frame);
            }
        }
    }

    void over_budget() {
        constexpr std::uint64_t enough = 3; // measured turns
        for (const subscribe_site_books& s : of.subscribes) {
            if (s.times.measured >= enough &&
                s.times.typical > static_cast<std::uint64_t>(std::max<std::int64_t>(options.budget.count(), 0))) {
                add(finding_code::over_budget,
                    "the handler of " + who(s.subscriber) + " on " + quoted(s.channel) + " takes " +
                        std::to_string(s.times.typical / 1000) + " us, at worst " +
                        std::to_string(s.times.worst / 1000) + " us; its budget is " +
                        std::to_string(options.budget.count() / 1000) + " us",
                    s.where.text(), "do less in it, post the work for later, or hand it to another thread", s.channel,
                    s.subscriber, s.first_frame);
            }
        }
    }

    void circles() {
        for (const circle_books& c : of.circles) {
            if (c.longest < options.returns) {
                continue;
            }
            std::string way;
            for (const std::string& name : c.channels) {
                way += (way.empty() ? "" : " -> ") + quoted(name);
            }
            add(finding_code::circle,
                "events go in a circle: " + way + ", " + times(c.times) + ", up to " + std::to_string(c.longest) +
                    " times from one cause",
                c.where.text(), "let one of them publish only when something has changed", c.channels.front(), "",
                c.first_frame);
        }
    }

    void waiting() {
        for (const waiting_books& w : of.waiting) {
            const channel_books* const c = channel(w.channel);
            const bool nothing_came = c != nullptr && c->published == 0 && long_enough(w.since_frame, w.ended_frame);
            if (w.source_gone || nothing_came) {
                add(finding_code::waits_for_ever,
                    "a sequence of " + who(w.subscriber) + (w.ended_frame ? " waited to its end for " : " waits for ") +
                        w.waits_for + (w.source_gone ? "" : ", on which nobody ever published"),
                    w.waits_at.text() + ", started at " + w.started.text(),
                    "give the wait a limit with courier::within(), or end the sequence with what it waits for",
                    w.channel, w.subscriber, w.since_frame);
            }
        }
    }

    /// Sets aside what is accepted.
    void accept() {
        std::vector<const accepted_finding*> all;
        for (const std::vector<accepted_finding>* const some : {&of.accepted, &options.accepted}) {
            for (const accepted_finding& one : *some) {
                all.push_back(&one);
            }
        }
        std::set<const accepted_finding*> met;
        std::erase_if(report.findings, [&](finding& f) {
            const auto found = std::find_if(all.begin(), all.end(), [&](const accepted_finding* one) {
                return one->code == id_of(f.code) && (one->channel.empty() || one->channel == f.channel) &&
                       (one->party.empty() || one->party == f.party);
            });
            if (found == all.end()) {
                return false;
            }
            met.insert(*found);
            report.accepted.push_back({std::move(f), (*found)->reason});
            return true;
        });
        for (const accepted_finding* const one : all) {
            if (!met.contains(one) && long_enough(0)) { // else it may still come
                add(finding_code::needless_accept,
                    "'" + one->code + "' is accepted" + (one->channel.empty() ? "" : " on " + quoted(one->channel)) +
                        (one->party.empty() ? "" : " about " + quoted(one->party)) + ", and there is no such finding",
                    one->where.file.empty() ? "" : one->where.text(), "take the acceptance out, or see what it was for",
                    one->channel, one->party, 0);
            }
        }
    }

    void unexpected() {
        for (const channel_books& c : of.channels) {
            if (c.payload.starts_with("courier::tally_unexpected<") && c.published != 0 && c.deliveries == 0) {
                add(finding_code::unexpected,
                    quoted(c.name.substr(0, c.name.rfind('.'))) + " was " + times(c.published) +
                        " given the report of somebody whom it does not expect",
                    publish_lines(c.name),
                    "expect() them, or let the group that it follows have them as members first; where that is as it "
                    "should be, subscribe to unexpected()",
                    c.name, "", c.first_frame);
            }
        }
    }

    by_channel<publisher_books> publishers_;
    by_channel<subscribe_site_books> subscribes_;
    std::unordered_map<std::string_view, const channel_books*> channels_;
    std::set<std::pair<std::string, std::string>> served_; ///< by line of code and subscriber
};

} // namespace

audit_report audit(const books& of, const audit_options& options) {
    return auditor(of, options).run();
}

WIRED_COURIER_NAMESPACE_END
