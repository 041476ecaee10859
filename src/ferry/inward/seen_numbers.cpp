#include "ferry/inward/seen_numbers.hpp"

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

seen_numbers::finding seen_numbers::note(std::string_view source, const crossing_id& id) {
    sender& from = sender_of(source, id);
    finding made;
    if (id.number > from.highest) {
        if (from.highest != 0 && id.is_gapless && !shares_) {
            made.missing = id.number - from.highest - 1;
        }
        if (id.number - from.highest >= window) {
            from.seen.reset();
        } else {
            for (std::uint64_t n = from.highest + 1; n < id.number; ++n) {
                from.seen.reset(n % window);
            }
        }
        from.highest = id.number;
        from.seen.set(id.number % window);
        return made;
    }
    if (from.highest - id.number >= window) {
        made.is_new = shares_; // what is older than that has come, unless others had it
        return made;
    }
    made.is_new = !from.seen.test(id.number % window);
    from.seen.set(id.number % window);
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
    if (order_of_others_.size() > window) {
        others_.erase(order_of_others_.front());
        order_of_others_.pop_front();
    }
    return true;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
