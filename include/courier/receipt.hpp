// What publish returns.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/party.hpp>

#include <cstdint>
#include <source_location>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// Who last stopped a publish on a channel; kept by the channel, so that a
/// receipt stays two words.
struct stop_note {
    held<party> subscriber;
    std::source_location where;
};

enum receipt_flag : std::uint32_t {
    receipt_stopped = 1,
    receipt_refused = 2,
    receipt_closed = 4,
    receipt_vacant = 8,
    receipt_refused_inside = 16,
};

struct receipts;

} // namespace detail

/// What became of one publish. A plain two-word value.
class receipt {
public:
    constexpr receipt() noexcept = default;

    /// How many handlers were called, one that threw or stopped the rest
    /// included; paused subscriptions and those whose condition did not hold
    /// are not.
    [[nodiscard]] constexpr std::uint32_t served() const noexcept { return served_; }

    /// Whether anybody was served.
    [[nodiscard]] constexpr bool heard() const noexcept { return served_ != 0; }

    /// Whether a handler's verdict ended the publish early; true even when
    /// nobody was left to be served.
    [[nodiscard]] constexpr bool stopped() const noexcept { return (flags_ & detail::receipt_stopped) != 0; }

    /// Whether the publish was refused because it was nested too deeply; the
    /// message is in `last_fault()`.
    [[nodiscard]] constexpr bool refused() const noexcept { return (flags_ & detail::receipt_refused) != 0; }

    /// Whether a publish that a handler made, or one further inside, was refused
    /// because it was nested too deeply: what went in a circle did not get all
    /// the way.
    [[nodiscard]] constexpr bool refused_inside() const noexcept {
        return (flags_ & detail::receipt_refused_inside) != 0;
    }

    /// Whether the channel was gone (a publisher outlived it) or went away
    /// while it was delivering.
    [[nodiscard]] constexpr bool closed() const noexcept { return (flags_ & detail::receipt_closed) != 0; }

    /// Whether the payload was for an address at which nobody is subscribed,
    /// or for a group without such a member. Subscribers of all addresses may have
    /// been served all the same.
    [[nodiscard]] constexpr bool vacant() const noexcept { return (flags_ & detail::receipt_vacant) != 0; }

    /// The name of the subscriber whose handler stopped the publish, the first
    /// one if several did; empty
    /// when nobody did or the subscription has no named subscriber. Valid
    /// until the channel is stopped again or ends.
    [[nodiscard]] std::string_view stopped_by() const noexcept {
        return stopped() && note_ != nullptr && note_->subscriber ? std::string_view{note_->subscriber->name}
                                                                  : std::string_view{};
    }

    /// Where the handler that stopped the publish was subscribed. Valid as
    /// `stopped_by()` is.
    [[nodiscard]] std::source_location stopped_at() const noexcept {
        return stopped() && note_ != nullptr ? note_->where : std::source_location{};
    }

private:
    friend struct detail::receipts;

    std::uint32_t served_ = 0;
    std::uint32_t flags_ = 0;
    const detail::stop_note* note_ = nullptr;
};

namespace detail {

/// Makes them and looks into them.
struct receipts {
    [[nodiscard]] static constexpr receipt made(std::uint32_t served, std::uint32_t flags = 0,
                                                const stop_note* note = nullptr) noexcept {
        receipt one;
        one.served_ = served;
        one.flags_ = flags;
        one.note_ = note;
        return one;
    }
    [[nodiscard]] static constexpr std::uint32_t flags_of(const receipt& of) noexcept { return of.flags_; }
    /// A copy with one flag more.
    [[nodiscard]] static constexpr receipt marked(const receipt& of, receipt_flag flag) noexcept {
        return made(of.served_, of.flags_ | flag, of.note_);
    }
};

} // namespace detail

WIRED_COURIER_NAMESPACE_END
