// SPDX-License-Identifier: MIT
#include "ferry/inward/seen_numbers.hpp"

#include <algorithm>
#include <iterator>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

seen_numbers::sender& seen_numbers::sender_of(std::string_view source, const crossing_id& id) {
    key_.assign(id.run);
    key_ += '-';
    key_ += std::to_string(id.route);
    key_ += '-';
    key_ += source;
    if (newest_ != nullptr && key_ == newest_key_) {
        return *newest_;
    }
    const auto [found, is_new] = senders_.try_emplace(key_);
    if (is_new) {
        order_.push_back(key_);
        if (order_.size() > most_senders_) {
            senders_.erase(order_.front());
            order_.pop_front();
        }
    }
    newest_ = &found->second; // which stays where it is
    newest_key_ = key_;
    return *newest_;
}

namespace {

using ranges = std::map<std::uint64_t, std::uint64_t>;

/// Notes one number more; false when it was there.
bool enter(ranges& seen, std::uint64_t number) {
    auto above = seen.upper_bound(number);
    const bool joins_above = above != seen.end() && above->first == number + 1;
    if (above != seen.begin()) {
        const auto below = std::prev(above);
        if (number <= below->second) {
            return false;
        }
        if (number == below->second + 1) {
            below->second = joins_above ? above->second : number;
            if (joins_above) {
                seen.erase(above);
            }
            return true;
        }
    }
    std::uint64_t last = number;
    if (joins_above) {
        last = above->second;
        above = seen.erase(above);
    }
    seen.emplace_hint(above, number, last);
    return true;
}

/// A message whose number is forgotten may be accepted twice. No message is ever taken for one
/// that has already come.
void forget_shortest(ranges& seen) {
    seen.erase(std::min_element(seen.begin(), seen.end(),
                                [](const auto& a, const auto& b) { return a.second - a.first < b.second - b.first; }));
}

} // namespace

seen_numbers::finding seen_numbers::note(std::string_view source, const crossing_id& id) {
    sender& from = sender_of(source, id);
    finding made;
    made.is_new = enter(from.seen, id.number);
    if (from.seen.size() > most_ranges) {
        forget_shortest(from.seen);
    }
    if (id.number <= from.highest) {
        return made;
    }
    const bool follows = from.highest == 0 || id.number - from.highest <= farthest_step;
    if (follows && from.highest != 0 && id.is_gapless && !shares_) {
        made.missing = id.number - from.highest - 1;
    }
    // One that is far ahead may be forged; where a second one follows it, the sender is there.
    const auto its = from.seen.upper_bound(id.number);
    if (follows || (its != from.seen.begin() && std::prev(its)->first < id.number)) {
        from.highest = id.number;
    }
    return made;
}

bool seen_numbers::note(std::string_view source, std::string_view id) {
    std::string key(id);
    key += ' ';
    key += source;
    if (!others_.insert(key).second) {
        return false;
    }
    order_of_others_.push_back(std::move(key));
    if (order_of_others_.size() > most_others) {
        others_.erase(order_of_others_.front());
        order_of_others_.pop_front();
    }
    return true;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
