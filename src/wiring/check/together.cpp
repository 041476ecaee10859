// What is wrong with wires as a whole: circles and doubles.
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <map>
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
    std::unordered_map<std::string_view, const wire_plan*> alike;
    for (const wire_plan& one : plan.wires) {
        if (!one.name.empty()) {
            const auto [there, is_new] = named.emplace(one.name, &one);
            if (!is_new) {
                by.faults().add(wiring_code::duplicate, one.at, "there are two wires " + in_quotes(one.name),
                                "the other one is in " + by.faults().told(there->second->at, one.at));
                alike.emplace(one.fingerprint, &one);
                continue;
            }
        }
        const auto [there, is_new] = alike.emplace(one.fingerprint, &one);
        if (!is_new) {
            by.faults().add(wiring_code::duplicate, one.at,
                            "this does the same as the wire in " + by.faults().told(there->second->at, one.at),
                            "take one of them out, or everything happens twice");
        }
    }
}

void write(const data& from, std::string& to) {
    to += static_cast<char>('0' + static_cast<int>(from.kind));
    switch (from.kind) {
    case data_kind::truth:
        to += from.truth ? '1' : '0';
        break;
    case data_kind::integer:
        to += std::to_string(from.integer);
        break;
    case data_kind::real:
        to += std::to_string(from.real);
        break;
    case data_kind::text:
        to += std::to_string(from.text.size()) + ':' + from.text;
        break;
    case data_kind::list:
        for (const data& one : from.items) {
            write(one, to);
        }
        break;
    default:
        break;
    }
    if (from.kind == data_kind::table) {
        std::vector<const keyed_data*> sorted;
        for (const keyed_data& one : from.entries) {
            if (one.key != "name" && one.key != "note") {
                sorted.push_back(&one);
            }
        }
        std::sort(sorted.begin(), sorted.end(), [](const auto* a, const auto* b) { return a->key < b->key; });
        for (const keyed_data* one : sorted) {
            to += std::to_string(one->key.size()) + '=' + one->key;
            write(one->value, to);
        }
    }
    to += ';';
}

} // namespace

std::string fingerprint_of(const data& wire) {
    std::string made;
    write(wire, made);
    return made;
}

void check_together(wire_checker& by, const wiring_plan& plan) {
    tell_doubles(by, plan);
    wire_graph(by, plan).tell();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
