// Topics, one of whose levels may be an address.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <optional>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What stands for "everyone" where an address would stand.
inline constexpr std::string_view everyone = "*";

/// An address as a level of a topic: what has a meaning in topics, and what is no plain
/// letter, is written as '%' and two hexadecimal digits (as RFC 3986 does). Empty: everyone.
[[nodiscard]] std::string level_of(std::string_view address);
/// The other way round; nothing where it is none.
[[nodiscard]] std::optional<std::string> address_in(std::string_view level);

/// Such as "gannet/+/horn", cut where the address belongs.
struct topic_pattern {
    std::string before;
    std::string behind;
    bool has_address = false;

    [[nodiscard]] std::string with(std::string_view address) const {
        return has_address ? before + level_of(address) + behind : before;
    }
    /// The level where the address is.
    [[nodiscard]] std::string_view level(std::string_view topic) const;
    friend bool operator==(const topic_pattern&, const topic_pattern&) = default;
};
[[nodiscard]] topic_pattern pattern_of(std::string_view text);

/// Throw `ferry_error`, with what to do. Of something with addresses, one level
/// is '+'.
void check_outward_topic(std::string_view topic, std::string_view channel, bool has_addresses);
void check_inward_filter(std::string_view filter, std::string_view channel, bool has_addresses);
void check_share_name(std::string_view name);
void check_process_name(std::string_view name);
[[nodiscard]] bool is_process_name(std::string_view name) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
