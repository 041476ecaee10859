// SPDX-License-Identifier: MIT
// Chains of causes that come back, and orders that matter.
#include "ledger/ledger_pages.hpp"

#include <algorithm>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void note_order(ledger_core& ledger, std::uint32_t channel, noted_handler first, noted_handler second, order_matter how,
                std::uint32_t on) noexcept {
    if (how == order_matter::both_publish && second.site < first.site) {
        std::swap(first, second); // which came first is chance
    }
    for (order_note& pair : ledger.orders) {
        if (pair.channel == channel && pair.first == first.site && pair.second == second.site && pair.how == how &&
            pair.on == on) {
            ++pair.times;
            return;
        }
    }
    const auto name_of = [&](noted_handler one) {
        const auto owner = ledger.parties.find(one.party);
        return owner != ledger.parties.end() ? owner->second.sums.name : ledger.subscribe_sites[one.site].who;
    };
    keep_book(ledger, [&] {
        ledger.orders.push_back(
            {channel, first.site, second.site, how, on, name_of(first), name_of(second), 1, ledger.frame});
    });
}

namespace {

// The chain from `newest` back to where it was on the same channel before, if
// all of it is remembered.
void note_round(ledger_core& ledger, const event_memory& newest) {
    std::vector<std::uint32_t> chain{newest.channel};
    std::uint64_t rounds = 0;
    std::vector<std::uint32_t> first_round;
    std::uint64_t earlier_than = newest.id; // causes come before, so that this comes to an end
    for (const event_memory* m = ledger.find(newest.cause); m != nullptr && m->id < earlier_than;
         m = ledger.find(m->cause)) {
        earlier_than = m->id;
        if (m->is_post) {
            continue;
        }
        chain.push_back(m->channel);
        if (m->channel == newest.channel) {
            if (rounds++ == 0) {
                first_round = chain;
            }
        }
    }
    if (rounds == 0) {
        return; // another channel with the same bit
    }
    std::reverse(first_round.begin(), first_round.end());
    first_round.pop_back(); // back to the first; it is written again for people only
    std::rotate(first_round.begin(), std::min_element(first_round.begin(), first_round.end()), first_round.end());
    for (circle_note& known : ledger.circles) {
        if (known.channels == first_round) {
            ++known.times;
            known.longest = std::max(known.longest, rounds);
            return;
        }
    }
    ledger.circles.push_back({std::move(first_round), newest.site, 1, rounds, ledger.frame});
}

} // namespace

void note_circle(ledger_core& ledger, const event_memory& newest) noexcept {
    keep_book(ledger, [&] { note_round(ledger, newest); });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
