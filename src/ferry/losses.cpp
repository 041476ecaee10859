#include "ferry/losses.hpp"

#include <courier/detail/base/in_use.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(crossing_fault why) noexcept {
    constexpr std::array<std::string_view, crossing_faults> ids{
        "courier.ferry.away",        "courier.ferry.no-room",      "courier.ferry.file-full",
        "courier.ferry.too-large",   "courier.ferry.not-allowed",  "courier.ferry.bad-address",
        "courier.ferry.bad-message", "courier.ferry.does-not-fit", "courier.ferry.arrivals-full",
        "courier.ferry.missing",     "courier.ferry.bad-reply",    "courier.ferry.too-many-asked"};
    const auto at = static_cast<std::size_t>(why);
    return at < ids.size() ? ids[at] : std::string_view{};
}

namespace detail {

void losses::add(crossing_fault why, std::string_view topic, std::uint64_t times, std::string_view what) noexcept {
    all_[static_cast<std::size_t>(why)].fetch_add(times, std::memory_order_relaxed);
    if_memory_allows([&] {
        const std::lock_guard lock(guard_);
        std::pair key(why, std::string(topic));
        if (news_.size() >= most_topics && !news_.contains(key)) {
            key.second.clear();
        }
        payload_lost& one = news_[key];
        one.why = why;
        one.topic = key.second;
        one.times += times;
        if (!what.empty()) {
            one.what = what;
        }
        has_news_.store(true, std::memory_order_release);
    });
}

std::vector<payload_lost> losses::take() {
    if (!has_news_.exchange(false, std::memory_order_acquire)) {
        return {};
    }
    std::vector<payload_lost> made;
    const std::lock_guard lock(guard_);
    made.reserve(news_.size());
    for (auto& [key, one] : news_) {
        made.push_back(std::move(one));
    }
    news_.clear();
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
