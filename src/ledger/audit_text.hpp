// How findings and faults name things.
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

} // namespace detail
WIRED_COURIER_NAMESPACE_END
