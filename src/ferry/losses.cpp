// SPDX-License-Identifier: MIT
#include "ferry/losses.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/stable_id.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(ferry_code code) noexcept {
    return detail::stable_id(code);
}

namespace detail {

void losses::add(ferry_code why, std::string_view topic, std::uint64_t times, std::string_view what) noexcept {
    all_[static_cast<std::size_t>(why)].fetch_add(times, std::memory_order_relaxed);
    if_memory_allows([&] {
        const std::lock_guard lock(guard_);
        std::pair key(why, std::string(topic));
        if (news_.size() >= most_topics && !news_.contains(key)) {
            key.second.clear();
        }
        payloads_lost& one = news_[key];
        one.code = why;
        one.topic = key.second;
        one.times += times;
        if (!what.empty()) {
            one.what = what;
        }
        has_news_.store(true, std::memory_order_release);
    });
}

std::vector<payloads_lost> losses::take() {
    if (!has_news_.exchange(false, std::memory_order_acquire)) {
        return {};
    }
    std::vector<payloads_lost> made;
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
