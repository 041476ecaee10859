// SPDX-License-Identifier: MIT
#include "ferry/outward/kept_messages.hpp"

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void kept_messages::forget(by_topic::iterator one) {
    bytes_ -= one->second.bytes();
    latest_.erase(one);
}

void kept_messages::remember(outward_message one) {
    if (const auto before = latest_.find(one.head.topic); before != latest_.end()) {
        forget(before);
    }
    if (bytes_ + one.bytes() <= most_) {
        bytes_ += one.bytes();
        std::string topic = one.head.topic;
        latest_.emplace(std::move(topic), std::move(one));
    }
}

void kept_messages::forget(const outward_message& one) {
    const auto known = latest_.find(one.head.topic);
    if (known != latest_.end() && known->second.head.id == one.head.id) {
        forget(known);
    }
}

void kept_messages::take_all(const std::function<void(outward_message&&)>& to) {
    by_topic all;
    all.swap(latest_);
    bytes_ = 0;
    for (auto& [topic, one] : all) {
        to(std::move(one));
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
