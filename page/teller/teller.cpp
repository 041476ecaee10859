// SPDX-License-Identifier: MIT
// What the page asks about a run: the library's own answers, compiled for browsers. Numbers that it draws it reads
// where they lie; everything else goes as JSON.
#include "density.hpp"
#include "failing.hpp"
#include "layout.hpp"
#include "shown.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/explanation.hpp>
#include <courier/recording/lanes.hpp>
#include <courier/recording/route_map.hpp>
#include <courier/recording/run_builder.hpp>
#include <courier/recording/run_filter.hpp>
#include <courier/recording/run_image.hpp>
#include <courier/recording/statistics.hpp>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

namespace {

using courier::from_json;
using courier::recorded_event;
using courier::to_json;

struct event_question {
    std::uint64_t id = 0;
};

struct rates_question {
    courier::run_filter filter;
    std::uint32_t span = 0;
};

std::string origin_in_words(const courier::recorded_origin* from) {
    return from == nullptr    ? ""
           : from->event == 0 ? "from " + from->process
                              : "from event " + std::to_string(from->event) + " of " + from->process;
}

/// One run, and what was last asked.
class teller {
public:
    char* room(std::size_t size) {
        input_.resize(size);
        return input_.data();
    }
    bool open_image() {
        builder_.reset();
        run_ = {};
        const bool is_read = read_image(input_, run_);
        input_ = {};
        return is_read;
    }
    void begin_live() {
        builder_.reset();
        run_ = {};
        builder_ = std::make_unique<courier::run_builder>(run_, "live", courier::read_options{.joined_late = true});
    }
    void take_lines(std::size_t most) {
        std::string_view left = input_;
        while (!left.empty()) {
            const std::size_t end = std::min(left.find('\n'), left.size());
            builder_->line(left.substr(0, end));
            left.remove_prefix(std::min(end + 1, left.size()));
        }
        builder_->done();
        builder_->keep_newest(most);
    }

    const std::string& ask() {
        const std::size_t end = input_.find('\n');
        const std::string_view name = std::string_view(input_).substr(0, end);
        const std::string_view text = std::string_view(input_).substr(end + 1);
        answer_ = name == "layout"          ? layout()
                  : name == "run"           ? to_json(about())
                  : name == "subscriptions" ? to_json(subscriptions(read<courier::run_filter>(text)))
                  : name == "event"         ? to_json(event(read<event_question>(text).id))
                  : name == "why_not"       ? to_json(in_words(why_not_path(run_, read<courier::run_filter>(text))))
                  : name == "why_not_path"  ? to_json(why_not_path(run_, read<courier::run_filter>(text)))
                  : name == "routes"        ? to_json(route_map(run_, read<courier::run_filter>(text)))
                  : name == "rates"         ? rates(read<rates_question>(text))
                  : name == "density"       ? to_json(density_of(run_, read<density_question>(text)))
                  : name == "slowest"       ? to_json(slowest_handlers(run_, read<courier::run_filter>(text)))
                  : name == "lanes"         ? to_json(lanes())
                                            : "null";
        return answer_;
    }

    [[nodiscard]] const std::string& answer() const noexcept { return answer_; }

    /// A byte for each event: whether it passes.
    const std::uint8_t* select() {
        const courier::run_selection selected(run_, read<courier::run_filter>(input_));
        passes_.resize(run_.events.size());
        std::transform(run_.events.begin(), run_.events.end(), passes_.begin(),
                       [&](const recorded_event& one) { return selected(one) ? 1 : 0; });
        return passes_.data();
    }

    [[nodiscard]] const courier::run& of() const noexcept { return run_; }
    [[nodiscard]] const courier::lane_table& lane_table() const noexcept { return lanes_; }

private:
    template <class T>
    static T read(std::string_view text) {
        T made;
        static_cast<void>(from_json(text, made, {.missing = courier::missing_fields::kept}));
        return made;
    }

    static std::string layout() {
        const std::vector<layout_field> all{FIELD(id),      FIELD(cause),        FIELD(frame),      FIELD(channel),
                                            FIELD(at),      FIELD(by),           FIELD(maker),      FIELD(to),
                                            FIELD(outbox),  FIELD(in_handler),   FIELD(heard),      FIELD(first_heard),
                                            FIELD(payload), FIELD(payload_size), FIELD(is_post),    FIELD(is_cut),
                                            FIELD(failed),  FIELD(stopped),      FIELD(first_took), FIELD(timed)};
        return courier::to_json(all);
    }

    shown_run about() {
        shown_run made;
        made.source = run_.source;
        made.file = run_.file;
        made.first_frame = run_.first_frame;
        made.frames = run_.frames();
        made.skipped = run_.skipped;
        made.forgotten = run_.forgotten;
        made.finished = run_.finished;
        for (const courier::recorded_channel& one : run_.channels) {
            made.channels.push_back({one.name, one.payload, one.hub, one.is_query, one.open});
        }
        std::map<std::string, std::string> parties; // with a line of each
        for (const auto& [number, one] : run_.subscriptions) {
            parties.emplace(run_.texts[one.who], one.at);
        }
        std::vector<bool> known(run_.texts.size());
        for (const recorded_event& one : run_.events) {
            if (!known[one.maker]) {
                known[one.maker] = true;
                parties.emplace(run_.maker_of(one), run_.texts[one.at]);
            }
        }
        for (const auto& [party, line] : parties) {
            made.parties.push_back(party);
            made.party_lines.push_back(line);
        }
        made.systems = run_.systems;
        made.phases = run_.phases;
        made.waiting = run_.waiting;
        made.left_waiting = run_.left_waiting;
        return made;
    }

    // The live ones whose party, channel and address fit.
    std::vector<shown_subscription> subscriptions(const courier::run_filter& filter) {
        courier::run_filter channel;
        channel.channel = filter.channel;
        channel.by_part = filter.by_part;
        const courier::run_selection on(run_, channel);
        courier::run_filter party;
        party.party = filter.party;
        party.by_part = filter.by_part;
        const courier::run_selection by(run_, party);
        std::vector<shown_subscription> all;
        for (const auto& [number, one] : run_.subscriptions) {
            if (one.until != UINT32_MAX || !on.has_channel(one.channel) || !by.has_party(one.who) ||
                (!filter.address.empty() && one.to != filter.address)) {
                continue;
            }
            shown_subscription made{number,
                                    run_.texts[one.who],
                                    !one.name.empty(),
                                    run_.channels[one.channel].name,
                                    one.at,
                                    one.stage,
                                    one.to,
                                    one.since,
                                    !one.pauses.empty() && one.pauses.back().until == UINT32_MAX,
                                    {}};
            for (std::size_t i = 0; i < courier::turn_kinds; ++i) {
                const auto why = static_cast<courier::turn>(i);
                if (why != courier::turn::served && one.turns[why] != 0) {
                    made.skipped.push_back({std::string(text_of(why)), one.turns[why]});
                }
            }
            all.push_back(std::move(made));
        }
        std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) {
            return std::pair(!a.has_name, a.party) < std::pair(!b.has_name, b.party);
        });
        return all;
    }

    shown_turn turn_of(std::uint32_t subscription, std::string why) const {
        const auto found = run_.subscriptions.find(subscription);
        return {subscription, run_.name_of(subscription), found != run_.subscriptions.end() ? found->second.at : "?",
                std::move(why), 0};
    }

    shown_event event(std::uint64_t id) {
        shown_event made;
        const recorded_event* const e = run_.find(id);
        if (e == nullptr) {
            return made;
        }
        const std::vector<const recorded_event*> chain = chain_of(run_, *e);
        made.sentence = in_a_sentence(run_, chain);
        const courier::recorded_origin* const from = origin_of(run_, *e);
        made.origin = origin_in_words(from);
        made.origin_run = from != nullptr ? from->run : "";
        made.stopped_by = e->stopped ? run_.name_of(e->stopped_by) : "";
        remark(made, e->outside, "came from outside");
        remark(made, e->retained, "kept, for one who came late");
        remark(made, e->refused, "refused: nested too deeply");
        remark(made, e->vacant, "nobody was at its address");
        remark(made, e->combined, "became part of one that waited");
        remark(made, e->turned_away, "turned away");
        remark(made, e->is_cut, "who heard it was not recorded: too much for a line");
        for (std::uint32_t i = 0; i < e->heard; ++i) {
            made.turns.push_back(turn_of(run_.heard[e->first_heard + i], ""));
        }
        for (std::uint32_t i = 0; i < e->missed; ++i) {
            const courier::recorded_miss& miss = run_.missed[e->first_missed + i];
            made.turns.push_back(turn_of(miss.subscription, std::string(text_of(miss.why))));
        }
        for (std::uint32_t i = 0; i < e->timed; ++i) {
            const courier::recorded_time& took = run_.took[e->first_took + i];
            for (shown_turn& turn : made.turns) {
                turn.ns = turn.subscription == took.subscription ? took.ns : turn.ns;
            }
        }
        grow_tree(made, chain);
        return made;
    }

    static void remark(shown_event& to, bool is_so, const char* text) {
        if (is_so) {
            to.remarks.emplace_back(text);
        }
    }

    // The chain of causes, then effects, each a step further in. Effects come after their causes, so that one walk
    // finds all of them.
    void grow_tree(shown_event& made, const std::vector<const recorded_event*>& chain) const {
        constexpr std::size_t most = 1000;
        for (const recorded_event* const one : chain) {
            add_row(made.tree, *one, static_cast<std::int32_t>(made.tree.size()) - 1);
        }
        made.causes = static_cast<std::uint32_t>(chain.size() - 1);
        const recorded_event* const last = run_.events.data() + run_.events.size();
        std::unordered_map<std::uint64_t, std::vector<const recorded_event*>> effects{{chain.back()->id, {}}};
        for (const recorded_event* one = chain.back() + 1; one != last && !made.more_followed; ++one) {
            if (const auto cause = effects.find(one->cause); cause != effects.end()) {
                cause->second.push_back(one);
                effects.emplace(one->id, std::vector<const recorded_event*>());
                made.more_followed = effects.size() > most;
            }
        }
        struct open_row {
            std::int32_t row;
            std::size_t next;
        };
        std::vector<open_row> open{{static_cast<std::int32_t>(made.causes), 0}};
        while (!open.empty()) {
            open_row& top = open.back();
            const auto& below = effects[made.tree[static_cast<std::size_t>(top.row)].id];
            if (top.next == below.size()) {
                open.pop_back();
                continue;
            }
            add_row(made.tree, *below[top.next++], top.row);
            open.push_back({static_cast<std::int32_t>(made.tree.size()) - 1, 0});
        }
    }

    void add_row(std::vector<tree_row>& to, const recorded_event& e, std::int32_t parent) const {
        to.push_back({e.id, parent < 0 ? 0 : to[static_cast<std::size_t>(parent)].depth + 1, parent,
                      run_.channels[e.channel].name, e.is_post, run_.maker_of(e), e.frame, run_.texts[e.at],
                      origin_in_words(origin_of(run_, e))});
    }

    std::string rates(const rates_question& asked) const {
        return courier::to_json(rates_of(run_, asked.filter, asked.span));
    }

    const std::vector<std::string>& lanes() {
        std::vector<const recorded_event*> all;
        all.reserve(run_.events.size());
        for (const recorded_event& one : run_.events) {
            all.push_back(&one);
        }
        lanes_ = lanes_of(run_, all);
        return lanes_.names;
    }

    courier::run run_;
    std::unique_ptr<courier::run_builder> builder_;
    std::string input_;
    std::string answer_;
    std::vector<std::uint8_t> passes_;
    courier::lane_table lanes_;
};

teller& the_teller() {
    static teller only;
    return only;
}

} // namespace

#define EXPORTED(name) extern "C" __attribute__((export_name(#name)))

EXPORTED(room) char* teller_room(std::size_t size) {
    return the_teller().room(size);
}
EXPORTED(open_image) bool teller_open_image() {
    return the_teller().open_image();
}
EXPORTED(begin_live) void teller_begin_live() {
    the_teller().begin_live();
}
EXPORTED(take_lines) void teller_take_lines(std::size_t most) {
    the_teller().take_lines(most);
}
EXPORTED(ask) std::size_t teller_ask() {
    return the_teller().ask().size();
}
EXPORTED(answer) const char* teller_answer() {
    return the_teller().answer().data();
}
EXPORTED(select) const std::uint8_t* teller_select() {
    return the_teller().select();
}
EXPORTED(event_count) std::size_t teller_event_count() {
    return the_teller().of().events.size();
}
EXPORTED(event_size) std::size_t teller_event_size() {
    return sizeof(recorded_event);
}
EXPORTED(events) const recorded_event* teller_events() {
    return the_teller().of().events.data();
}
EXPORTED(heard) const std::uint32_t* teller_heard() {
    return the_teller().of().heard.data();
}
EXPORTED(took) const courier::recorded_time* teller_took() {
    return the_teller().of().took.data();
}
EXPORTED(payloads) const char* teller_payloads() {
    return the_teller().of().payloads.data();
}
EXPORTED(text) const char* teller_text(std::uint32_t number) {
    return the_teller().of().texts[number].data();
}
EXPORTED(text_size) std::size_t teller_text_size(std::uint32_t number) {
    return the_teller().of().texts[number].size();
}
EXPORTED(begin_of) double teller_begin_of(std::uint32_t frame) {
    return static_cast<double>(the_teller().of().begin_of(frame)) / 1e9;
}
EXPORTED(find) std::int32_t teller_find(double id) {
    const recorded_event* const found = the_teller().of().find(static_cast<std::uint64_t>(id));
    return found != nullptr ? static_cast<std::int32_t>(found - the_teller().of().events.data()) : -1;
}
EXPORTED(is_unheard) bool teller_is_unheard(std::uint32_t event) {
    const recorded_event& one = the_teller().of().events[event];
    return !one.is_post && one.was_unheard();
}
EXPORTED(lane_from) const std::uint32_t* teller_lane_from() {
    return the_teller().lane_table().from.data();
}
EXPORTED(lane_end) const std::uint32_t* teller_lane_end() {
    return the_teller().lane_table().end.data();
}
EXPORTED(lane_to) const std::uint32_t* teller_lane_to() {
    return the_teller().lane_table().to.data();
}
EXPORTED(lane_to_count) std::size_t teller_lane_to_count() {
    return the_teller().lane_table().to.size();
}
