// SPDX-License-Identifier: MIT
// What is wrong with wires as a whole: circles and doubles.
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <bit>
#include <cstring>
#include <unordered_map>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Channels as a graph: a wire leads from its cause to what its actions announce.
class wire_graph {
public:
    wire_graph(wire_checker& by, const wiring_plan& plan) : by_(by), state_(by.has().channels.size()) {
        std::unordered_map<std::string_view, std::size_t> numbers;
        for (std::size_t i = 0; i < by.has().channels.size(); ++i) {
            numbers.emplace(by.has().channels[i].name, i);
        }
        leads_.resize(state_.size());
        for (const wire_plan& wire : plan.wires) {
            if (wire.enabled && wire.after == 0 && wire.every == 0 && wire.times == 0) {
                add(wire, wire.steps, numbers);
                add(wire, wire.otherwise, numbers);
            }
        }
    }

    void tell() {
        for (std::size_t i = 0; i < state_.size(); ++i) {
            if (state_[i] == seen::no) {
                follow(i);
            }
        }
    }

private:
    enum class seen : std::uint8_t { no, on_the_way, done };
    struct lead {
        const wire_plan* wire;
        std::size_t to;
    };
    struct stop {
        std::size_t channel;
        std::size_t next = 0;
    };

    void add(const wire_plan& wire, const std::vector<step_plan>& steps,
             const std::unordered_map<std::string_view, std::size_t>& numbers) {
        for (const step_plan& step : steps) {
            if (step.after != 0) {
                continue; // and what follows comes later, too
            }
            for (const std::string& channel : by_.has().actions[step.action].announces) {
                if (const auto found = numbers.find(channel); found != numbers.end()) {
                    leads_[wire.cause].push_back({&wire, found->second});
                }
            }
            add(wire, step.success, numbers);
            add(wire, step.failure, numbers);
        }
    }

    // Depth first, without the stack of calls: there may be a million wires.
    void follow(std::size_t from) {
        std::vector<stop> way{{from}};
        state_[from] = seen::on_the_way;
        while (!way.empty()) {
            stop& here = way.back();
            if (here.next == leads_[here.channel].size()) {
                state_[here.channel] = seen::done;
                way.pop_back();
                continue;
            }
            const lead next = leads_[here.channel][here.next++];
            if (state_[next.to] == seen::on_the_way) {
                tell_circle(way, next);
            } else if (state_[next.to] == seen::no) {
                state_[next.to] = seen::on_the_way;
                way.push_back({next.to});
            }
        }
    }

    void tell_circle(const std::vector<stop>& way, const lead& last) {
        const auto first =
            std::find_if(way.begin(), way.end(), [&](const stop& one) { return one.channel == last.to; });
        std::string path;
        for (auto one = first; one != way.end(); ++one) {
            path += in_quotes(by_.has().channels[one->channel].name) + " -> ";
        }
        by_.faults().add(wiring_code::leads_back, last.wire->at,
                         "this leads back to itself: " + path + in_quotes(by_.has().channels[last.to].name),
                         "let it happen later ('after'), only some times ('times') or not so often ('every')");
    }

    wire_checker& by_;
    std::vector<seen> state_;
    std::vector<std::vector<lead>> leads_; ///< by channel
};

void tell_doubles(wire_checker& by, const wiring_plan& plan) {
    std::unordered_map<std::string_view, const wire_plan*> named;
    std::unordered_map<wire_print, const wire_plan*, wire_print_hash> alike;
    for (const wire_plan& one : plan.wires) {
        if (!one.name.empty()) {
            const auto [there, is_new] = named.emplace(one.name, &one);
            if (!is_new && (one.family == 0 || one.family != there->second->family)) {
                by.faults().add(wiring_code::duplicate, one.at, "there are two wires " + in_quotes(one.name),
                                "the other one is in " + by.faults().told(there->second->at, one.at));
                alike.emplace(one.print, &one);
                continue;
            }
        }
        const auto [there, is_new] = alike.emplace(one.print, &one);
        if (!is_new) {
            by.faults().add(wiring_code::duplicate, one.at,
                            "this does the same as the wire in " + by.faults().told(there->second->at, one.at),
                            "take one of them out, or everything happens twice");
        }
    }
}

/// Two lanes, each mixed as in "Fast Splittable Pseudorandom Number Generators"
/// (Steele, Lea and Flood, 2014).
class printer {
public:
    void add(std::uint64_t word) noexcept {
        made_.high = mixed(made_.high ^ word, 0xbf58476d1ce4e5b9U);
        made_.low = mixed(made_.low + word, 0x94d049bb133111ebU);
    }
    void add(std::string_view text) noexcept {
        add(text.size());
        for (; !text.empty(); text.remove_prefix(std::min(text.size(), sizeof(std::uint64_t)))) {
            std::uint64_t word = 0;
            std::memcpy(&word, text.data(), std::min(text.size(), sizeof word));
            add(word);
        }
    }
    void add(const data& from, bool is_wire = false) {
        add(static_cast<std::uint64_t>(from.kind));
        switch (from.kind) {
        case data_kind::truth:
            add(from.truth ? 1U : 0U);
            break;
        case data_kind::integer:
            add(static_cast<std::uint64_t>(from.integer));
            break;
        case data_kind::real:
            add(std::bit_cast<std::uint64_t>(from.real));
            break;
        case data_kind::text:
            add(from.text);
            break;
        case data_kind::list:
            add(from.items.size());
            for (const data& one : from.items) {
                add(one);
            }
            break;
        case data_kind::table:
            add_table(from, is_wire);
            break;
        default:
            break;
        }
    }
    [[nodiscard]] wire_print made() const noexcept { return made_; }

private:
    static std::uint64_t mixed(std::uint64_t word, std::uint64_t by) noexcept {
        word = (word ^ (word >> 30U)) * by;
        return word ^ (word >> 27U);
    }
    /// In whatever order its keys stand.
    void add_table(const data& table, bool is_wire) {
        wire_print sum;
        for (const keyed_data& one : table.entries) {
            if (!is_wire || (one.key != "name" && one.key != "note")) {
                printer each;
                each.add(one.key);
                each.add(one.value);
                sum.high += each.made_.high;
                sum.low += each.made_.low;
            }
        }
        add(sum.high);
        add(sum.low);
    }

    wire_print made_{0x9e3779b97f4a7c15U, 0x9e3779b97f4a7c15U};
};

} // namespace

wire_print print_of(const data& wire) {
    printer by;
    by.add(wire, true);
    return by.made();
}

wire_print identity_of(const wire_plan& wire, const std::vector<set_plan>& sets) {
    printer by;
    by.add(wire.print.high);
    by.add(wire.print.low);
    by.add(wire.name);
    if (const set_plan* const its = find_set(sets, wire.set); its != nullptr) {
        for (const phase_plan& one : its->during) {
            by.add(one.phases);
            by.add(one.phase);
        }
    }
    return by.made();
}

void check_together(wire_checker& by, const wiring_plan& plan) {
    tell_doubles(by, plan);
    wire_graph(by, plan).tell();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
