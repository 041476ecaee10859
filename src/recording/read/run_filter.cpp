#include <courier/recording/run_filter.hpp>

#include <courier/detail/base/nearest.hpp>

#include <algorithm>
#include <set>
#include <stdexcept>

WIRED_COURIER_NAMESPACE_BEGIN

bool concerns(const run& of, const recorded_event& event, const std::string& party) {
    for (std::uint32_t i = 0; i < event.heard; ++i) {
        if (of.name_of(of.heard[event.first_heard + i]) == party) {
            return true;
        }
    }
    for (std::uint32_t i = 0; i < event.missed; ++i) {
        if (of.name_of(of.missed[event.first_missed + i].subscription) == party) {
            return true;
        }
    }
    return false;
}

bool run_filter::matches(const run& of, const recorded_event& event) const {
    return event.frame >= first_frame && event.frame <= last_frame &&
           (channel.empty() || of.channels[event.channel].name == channel) &&
           (address.empty() || of.texts[event.to] == address) &&
           (party.empty() || of.maker_of(event) == party || concerns(of, event, party));
}

namespace {

void refuse(const run& of, const char* kind, const std::string& name, const std::set<std::string>& known,
            const std::string& hint = "; 'courier map' lists those that there are") {
    std::string message = of.file + " has no " + kind + " '" + name + "'";
    if (const std::string nearest = detail::nearest_of(name, known); !nearest.empty()) {
        message += "; did you mean '" + nearest + "'?";
    } else {
        message += hint;
    }
    throw std::invalid_argument(message);
}

} // namespace

void check_names(const run& of, const run_filter& filter) {
    if (!filter.channel.empty() && of.channel_named(filter.channel) == UINT32_MAX) {
        std::set<std::string> names;
        for (const recorded_channel& c : of.channels) {
            names.insert(c.name);
        }
        refuse(of, "channel", filter.channel, names);
    }
    if (!filter.address.empty()) {
        std::set<std::string> names;
        for (const recorded_event& e : of.events) {
            if (e.to != 0) {
                names.insert(of.texts[e.to]);
            }
        }
        if (!names.contains(filter.address)) {
            refuse(of, "event for address", filter.address, names,
                   names.empty() ? "; none of its events is for an address"
                                 : "; there are such as '" + *names.begin() + "'");
        }
    }
    if (!filter.party.empty()) {
        std::set<std::string> names;
        for (const auto& [number, s] : of.subscriptions) {
            names.insert(of.name_of(number));
        }
        for (const recorded_event& e : of.events) {
            names.insert(of.maker_of(e));
        }
        if (!names.contains(filter.party)) {
            refuse(of, "party", filter.party, names);
        }
    }
}

WIRED_COURIER_NAMESPACE_END
