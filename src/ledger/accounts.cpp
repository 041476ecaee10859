// SPDX-License-Identifier: MIT
// The pages of a ledger: channels of one name, lines of code, and times.
#include "ledger/ledger_pages.hpp"
#include "ledger/noted.hpp"

#include <courier/detail/base/type_name.hpp>
#include <cstring>
#include <memory>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

turn_counts subscription_note::turns() const noexcept {
    turn_counts sum = missed;
    std::uint64_t not_served = 0;
    for (const turn why :
         {turn::paused, turn::asleep, turn::outside_period, turn::condition, turn::filtered, turn::stopped}) {
        not_served += missed[why];
    }
    const channel_core& core = *of->list->core;
    std::uint64_t walked = core.walks - joined;
    if ((of->ops->traits & handler_takes_span) != 0) { // its turns of a batch are in `extra`
        walked -= core.batch_walks - batches_joined;
    }
    sum[turn::served] = walked + extra - not_served;
    return sum;
}

ledger_core::ledger_core() = default;
ledger_core::~ledger_core() = default;

void release(ledger_core& ledger) noexcept {
    if (--ledger.refs == 0) {
        delete &ledger;
    }
}

account& account_for(ledger_core& ledger, const channel_core& core) {
    std::string key = core.name;
    key += '\n';
    key += core.kind->name;
    const auto found = ledger.account_numbers.find(key);
    if (found == ledger.account_numbers.end()) {
        const auto number = static_cast<std::uint32_t>(ledger.accounts.size());
        auto made = std::make_unique<account>(); // all that takes memory comes first
        made->ledger = &ledger;
        made->number = number;
        made->until_timed = ledger.time_every != 0 ? 0 : UINT32_MAX;
        made->sums.name = core.name;
        made->sums.payload = plain_type_name(core.kind->name);
        made->sums.is_query = core.kind->is_query;
        made->sums.is_owned = core.kind->is_owned;
        reserve_by_halves(ledger.accounts, ledger.accounts.size() + 1);
        ledger.account_numbers.emplace(std::move(key), number);
        ledger.accounts.push_back(std::move(made));
        return *ledger.accounts.back();
    }
    return *ledger.accounts[found->second];
}

std::uint32_t find_publish_site(account& books, std::source_location where, std::string_view who) {
    std::deque<code_site>& all = books.ledger->publish_sites;
    for (const std::uint32_t number : books.sites) {
        if (all[number].where.line == where.line() && all[number].who == who &&
            std::strcmp(all[number].where.file.c_str(), where.file_name()) == 0) {
            all[number].file_key = where.file_name();
            books.site = &all[number];
            return books.newest_site = number;
        }
    }
    const auto number = static_cast<std::uint32_t>(all.size());
    all.push_back({where.file_name(), books.number, line_of(where), std::string{who}});
    books.sites.push_back(number);
    books.site = &all.back();
    return books.newest_site = number;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
