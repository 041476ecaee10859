// SPDX-License-Identifier: MIT
#include <courier/recording/narrator.hpp>

#include "data/words.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/ledger/ledger_core.hpp>
#include <courier/receipt.hpp>

#include <fmt/format.h>

#include <cstdint>
#include <cstdio>
#include <deque>
#include <exception>
#include <iterator>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using namespace detail;

constexpr std::size_t most_waiting = 4096;
constexpr std::size_t untold = SIZE_MAX; ///< without memory

void print_line(std::string_view line) {
    std::fwrite(line.data(), 1, line.size(), stdout);
    std::fputc('\n', stdout);
}

std::string in_braces(const payload_kind* kind, const void* payload) {
    if (kind == nullptr || kind->fields == nullptr || kind->fields->entries.empty()) {
        return {};
    }
    std::string made = " {";
    put_fields(*kind->fields, kind->subject != nullptr ? kind->subject(payload) : payload, made);
    return made + "}";
}

/// Names in a line, each once with how often it comes, and no more than there is room for.
class name_list {
public:
    explicit name_list(std::size_t most) : most_(most) {}
    void add(const std::string& name) {
        for (auto& [known, times] : names_) {
            if (known == name) {
                ++times;
                return;
            }
        }
        if (names_.size() < most_) {
            names_.emplace_back(name, 1U);
        } else {
            ++more_;
        }
    }
    [[nodiscard]] std::string text() const {
        std::string all;
        for (const auto& [name, times] : names_) {
            all += (all.empty() ? "" : ", ") + name + (times > 1 ? fmt::format(" x{}", times) : "");
        }
        return more_ == 0 ? all : all.empty() ? std::to_string(more_) : all + fmt::format(" and {} more", more_);
    }

private:
    std::size_t most_;
    std::size_t more_ = 0;
    std::vector<std::pair<std::string, std::uint32_t>> names_;
};

} // namespace

class narrator::implementation final : public event_sink, public std::enable_shared_from_this<implementation> {
public:
    implementation(ledger_core& of, narrator_options&& options, line_taker&& to)
        : of_(&of), options_(std::move(options)), to_(to ? std::move(to) : line_taker(&print_line)) {
        for (const auto& [number, note] : of.notes) {
            subscribed(*note);
        }
        add_taker(of, *this);
    }
    implementation(const implementation&) = delete;
    implementation& operator=(const implementation&) = delete;
    ~implementation() override { over(); }

    [[nodiscard]] bool takes(const account& channels) override {
        if (!options_.only) {
            return true;
        }
        const auto [known, is_new] = asked_.try_emplace(channels.number, false);
        if (!is_new) {
            return known->second;
        }
        const auto kept = shared_from_this(); // the function may end the narrator, or publish
        const bool takes = options_.only(channels.sums.name);
        asked_[channels.number] = takes;
        return takes && of_ != nullptr;
    }

    [[nodiscard]] std::size_t begin(const payload_kind* kind, const void* payload) override {
        std::size_t number = untold;
        if_memory_allows([&] {
            if (is_telling_) {
                return;
            }
            waiting_.push_back({in_braces(kind, payload), open_, false});
            number = first_ + waiting_.size() - 1;
        });
        ++open_;
        return number;
    }

    void published(const event_facts& what) override {
        --open_;
        if (what.kept == untold) {
            return;
        }
        line& mine = waiting_[what.kept - first_];
        if_memory_allows([&] {
            mine.text = fmt::format("{}: {}{}{} -> {}{}", head_of(what), what.on->sums.name,
                                    what.to.empty() ? "" : fmt::format(" to {}", what.to), mine.text, outcome_of(what),
                                    origin_of(what));
        });
        end_of(mine);
    }

    void posted(const post_facts& what) override {
        if (!is_telling_) {
            if_memory_allows([&] { tell_of_post(what); });
        }
    }

    void channel_opened(const account&) override {}
    void channel_closed(const account&) override {}
    void subscribed(const subscription_note& which) override {
        if_memory_allows([&] {
            names_[which.number] = which.name != nullptr && !which.name->empty()
                                       ? *which.name
                                       : of_->subscribe_sites[which.site].where.text();
        });
    }
    void ended(const subscription_note& which, bool) override {
        if_memory_allows([&] { ended_.push_back(which.number); });
    }
    void paused(const subscription_note&, bool) override {}
    void party_ended(std::uint32_t) override {}
    void frame(std::uint64_t, std::int64_t) override { heads_frames_ = options_.frames; }
    void forget_kinds() noexcept override {}
    void over() noexcept override {
        if (of_ != nullptr) {
            remove_taker(*std::exchange(of_, nullptr), *this);
        }
    }

    std::string failure;

private:
    struct line {
        std::string text; ///< until it is done: the payload
        std::size_t depth = 0;
        bool is_done = false;
    };

    void tell_of_post(const post_facts& what) {
        std::string to;
        if (what.to.address != nullptr) {
            to = " to ";
            what.to.write(what.to.address, to);
        }
        const std::string& channel = of_->accounts[what.channel]->sums.name;
        line& mine = waiting_.emplace_back();
        mine.depth = open_;
        mine.text = fmt::format("{} posts {}{}{} through '{}'{}", head_of(what), channel, to,
                                in_braces(what.kind, what.payload), what.outbox,
                                what.outcome == posting_outcome::combined      ? ", combined with one that waits"
                                : what.outcome == posting_outcome::turned_away ? ", turned away"
                                                                               : "");
        end_of(mine);
    }

    [[nodiscard]] std::string name_of(std::uint32_t subscription) const {
        const auto found = names_.find(subscription);
        if (found != names_.end()) {
            return found->second;
        }
        const std::uint32_t site = site_of(*of_, subscription); // it has ended
        if (site == UINT32_MAX) {
            return "somebody";
        }
        const code_site& made = of_->subscribe_sites[site];
        return made.who.empty() ? made.where.text() : made.who;
    }

    template <class Facts>
    [[nodiscard]] std::string head_of(const Facts& what) const {
        const code_site& site = of_->publish_sites[what.site];
        const std::string who = !site.who.empty()    ? site.who
                                : what.handling != 0 ? name_of(what.handling)
                                                     : std::string();
        const std::string where = site.where.text();
        return fmt::format("#{} {}", what.id, who.empty() || who == where ? where : fmt::format("{} ({})", who, where));
    }

    [[nodiscard]] std::string outcome_of(const event_facts& what) const {
        if ((what.flags & receipt_refused) != 0) {
            return "refused: nested too deeply";
        }
        name_list heard(options_.names);
        std::vector<std::pair<turn, name_list>> missed;
        std::size_t served = 0;
        for (std::size_t i = 0; i < what.turn_count; ++i) {
            const turn_note& one = what.turns[i];
            if (one.why == turn::served) {
                ++served;
                heard.add(name_of(one.subscription));
                continue;
            }
            auto same = missed.begin();
            while (same != missed.end() && same->first != one.why) {
                ++same;
            }
            if (same == missed.end()) {
                same = missed.insert(same, {one.why, name_list(options_.names)});
            }
            same->second.add(name_of(one.subscription));
        }
        std::string all = served != 0                          ? heard.text()
                          : what.turn_count != 0               ? "nobody"
                          : (what.flags & receipt_vacant) != 0 ? "nobody at that address"
                                                               : "nobody listens";
        for (const auto& [why, names] : missed) {
            all += fmt::format("; {}: {}", text_of(why), names.text());
        }
        if ((what.flags & receipt_stopped) != 0) {
            const bool is_answer = what.on->sums.is_query;
            all = (is_answer ? "" : all + "; ") +
                  fmt::format("{} by {}", is_answer ? "answered" : "stopped", name_of(what.stopped_by));
        }
        return all;
    }

    /// What led to it, unless that is the line around it.
    [[nodiscard]] std::string origin_of(const event_facts& what) const {
        if (what.from != nullptr) {
            return fmt::format(" (from process {}, #{})", what.from->process, what.from->event);
        }
        const bool is_inside = open_ != 0;
        return what.cause != 0 && !is_inside ? fmt::format(" (after #{})", what.cause)
               : what.outside && !is_inside  ? " (from outside)"
                                             : "";
    }

    void end_of(line& mine) {
        const auto kept = shared_from_this(); // whoever takes the lines may end the narrator
        mine.is_done = true;
        if (waiting_.size() > most_waiting) {
            write(mine);
            mine.text.clear();
            while (waiting_.back().is_done && waiting_.back().text.empty()) {
                waiting_.pop_back();
            }
        }
        if (open_ != 0) {
            return;
        }
        while (!waiting_.empty()) {
            const line next = std::move(waiting_.front());
            waiting_.pop_front();
            ++first_;
            if (!next.text.empty()) {
                write(next);
            }
        }
        for (const std::uint32_t number : std::exchange(ended_, {})) {
            names_.erase(number);
        }
    }

    void write(const line& which) {
        if (!failure.empty() || of_ == nullptr) {
            return;
        }
        const while_true now(is_telling_);
        try {
            if (const std::uint64_t frame = of_->frame; std::exchange(told_frame_, frame) != frame && heads_frames_) {
                to_(fmt::format("frame {}", frame));
            }
            to_(std::string(2 * which.depth, ' ') + which.text);
        } catch (const std::exception& error) {
            failure = error.what();
        } catch (...) {
            failure = "what takes the lines has failed";
        }
    }

    ledger_core* of_; ///< null: it is over
    narrator_options options_;
    line_taker to_;
    std::unordered_map<std::uint32_t, bool> asked_;        ///< by channel
    std::unordered_map<std::uint32_t, std::string> names_; ///< by subscription
    std::vector<std::uint32_t> ended_;                     ///< subscriptions whose names may still be wanted
    std::deque<line> waiting_;                             ///< for the end of the outermost publish
    std::size_t first_ = 0;                                ///< the number of the first that waits
    std::size_t open_ = 0;                                 ///< publishes in flight
    std::uint64_t told_frame_ = 0;
    bool heads_frames_ = false; ///< there are frames
    bool is_telling_ = false;   ///< a line is being taken
};

narrator::narrator(narrator_options options, line_taker to) : own_(std::make_unique<ledger>("narrator")) {
    own_->attach_everything();
    if (own_->working()) {
        all_ = std::make_shared<implementation>(access::ledger_of(*own_), std::move(options), std::move(to));
    }
}

narrator::narrator(ledger& of, narrator_options options, line_taker to) {
    if (of.working()) {
        all_ = std::make_shared<implementation>(access::ledger_of(of), std::move(options), std::move(to));
    }
}

narrator::~narrator() {
    if (all_ != nullptr) {
        all_->over(); // before its ledger ends
    }
}

std::string narrator::failure() const {
    return all_ == nullptr ? "its ledger notes nothing" : all_->failure;
}

WIRED_COURIER_NAMESPACE_END
