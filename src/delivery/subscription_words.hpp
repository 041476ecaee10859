// How findings and faults name things.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline std::string quoted(const std::string& name) {
    return "'" + name + "'";
}

inline std::string who(const std::string& subscriber) {
    return subscriber.empty() ? "a subscription without a subscriber" : quoted(subscriber);
}

/// One of a list of subscriptions: "'reef.begun' by 'horn' from horn.cpp:12".
inline void add_words(std::string& list, const std::string& channel, const std::string& subscriber,
                      const std::string& place) {
    list += (list.empty() ? "" : ", ") + quoted(channel) + " by " + who(subscriber) + " from " + place;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
