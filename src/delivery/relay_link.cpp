// SPDX-License-Identifier: MIT
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/relay_link.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// The links that lead from `from` to `to`; empty when there is no way.
std::vector<const relay_link*> way_between(const channel_core& from, const channel_core& to) {
    std::vector<const relay_link*> way;
    std::vector<const channel_core*> seen{&from};
    const relay_link* next = from.relays;
    for (;;) {
        while (next != nullptr &&
               (next->deferred || std::find(seen.begin(), seen.end(), next->to.get()) != seen.end())) {
            next = next->next;
        }
        if (next == nullptr) {
            if (way.empty()) {
                return way;
            }
            next = way.back()->next; // a dead end
            way.pop_back();
            continue;
        }
        way.push_back(next);
        if (next->to.get() == &to) {
            return way;
        }
        seen.push_back(next->to.get());
        next = next->to->relays;
    }
}

void report_circle(const channel_core& from, const channel_core& to, const std::vector<const relay_link*>& back,
                   std::source_location where) {
    std::string message = "relay from '" + from.name + "' to '" + to.name + "' refused: it would close a circle: '" +
                          from.name + "' -> '" + to.name + "'";
    for (const relay_link* link : back) {
        message += " -> '" + link->to->name + "' (" + place(link->where) + ")";
    }
    raise(fault_code::relay_circle, severity::refused, std::move(message), "leave one of these relays out", where);
}

} // namespace

relay_link* add_relay(channel_core& from, channel_core& to, std::source_location where, bool deferred) {
    if (checked_build) {
        check_use(from, "relayed", where);
        check_use(to, "relayed to", where);
    }
    const std::vector<const relay_link*> back = deferred ? std::vector<const relay_link*>{} : way_between(to, from);
    if (!deferred && (&from == &to || !back.empty())) {
        report_circle(from, to, back, where);
        return nullptr;
    }
    auto* link = new relay_link{held(to), where, deferred, from.relays, &from.relays};
    if (from.relays != nullptr) {
        from.relays->back = &link->next;
    }
    from.relays = link;
    return link;
}

void remove_relay::operator()(relay_link* link) const noexcept {
    if (link->back != nullptr) {
        *link->back = link->next;
        if (link->next != nullptr) {
            link->next->back = link->back;
        }
    }
    delete link;
}

void cut_relays(channel_core& core) noexcept {
    while (core.relays != nullptr) {
        core.relays->back = nullptr;
        core.relays = core.relays->next;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
