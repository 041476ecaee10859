// A name for one of several channels of a payload type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Declared once, as a constant, for a hub to find a channel by:
///
///     inline constexpr courier::channel_name<Rang> fog_bell{"sound.fog_bell"};
///     match.channel(fog_bell).publish({.times = 2});
///
/// A letter that differs is a compiler error that way, and so is the wrong
/// payload. The text must be a string literal.
template <class Payload>
class channel_name {
public:
    using payload_type = Payload;

    /// `text` is a string literal.
    consteval explicit channel_name(const char* text) noexcept : text_(text) {}
    /// The name as text.
    [[nodiscard]] constexpr std::string_view text() const noexcept { return text_; }

private:
    std::string_view text_;
};

WIRED_COURIER_NAMESPACE_END
