// Payloads that wait for their time, in places that stay where they are.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/oversight.hpp>

#include <cstdint>
#include <limits>
#include <optional>
#include <source_location>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A payload may do anything while it is moved, copied or destroyed here: its
/// place is neither free nor moved until that is over.
template <class Payload>
class sleepers {
public:
    /// Nothing has changed when the payload's own move throws, or memory is full.
    std::uint32_t add(Payload&& payload, std::source_location where) {
        const post_mark mark = overseen() ? mark_here(where) : post_mark{{}, where};
        const std::uint32_t at = free_place();
        place& taken = place_at(at);
        free_ = taken.next;
        taken.next = none;
        taken.mark = mark;
        if constexpr (std::is_nothrow_move_constructible_v<Payload>) {
            taken.payload.emplace(std::move(payload));
        } else {
            given_back_if_thrown guard{*this, at};
            taken.payload.emplace(std::move(payload));
            guard.at = none;
        }
        return at;
    }
    [[nodiscard]] const post_mark& mark_of(std::uint32_t sleeper) const noexcept { return place_at(sleeper).mark; }

    /// A copy; its own copying may take it back.
    [[nodiscard]] Payload copy_of(std::uint32_t sleeper) {
        place& at = place_at(sleeper);
        if constexpr (is_quiet<Payload>) {
            return *at.payload;
        } else {
            struct use {
                sleepers& all;
                std::uint32_t sleeper;
                bool outermost;
                ~use() {
                    place& at = all.place_at(sleeper);
                    at.used = !outermost;
                    if (outermost && at.unwanted) {
                        all.remove(sleeper);
                    }
                }
            } const now{*this, sleeper, !std::exchange(at.used, true)};
            return Payload(std::as_const(*at.payload));
        }
    }
    /// For one whose timer is gone already.
    Payload take(std::uint32_t sleeper) {
        struct removed {
            sleepers& all;
            std::uint32_t sleeper;
            ~removed() { all.remove(sleeper); }
        } const afterwards{*this, sleeper};
        return std::move(*place_at(sleeper).payload);
    }
    void remove(std::uint32_t sleeper) noexcept {
        place& at = place_at(sleeper);
        if (at.used) {
            at.unwanted = true;
            return;
        }
        at.unwanted = false;
        at.payload.reset(); // before its place is free
        at.next = free_;
        free_ = sleeper;
    }

private:
    static constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();
    struct place {
        std::optional<Payload> payload;
        std::uint32_t next = none;
        bool used = false;     ///< is being copied
        bool unwanted = false; ///< goes when that is over
        post_mark mark;
    };
    struct given_back_if_thrown {
        sleepers& all;
        std::uint32_t at;
        ~given_back_if_thrown() {
            if (at != none) {
                all.place_at(at).next = std::exchange(all.free_, at);
            }
        }
    };

    std::uint32_t free_place() {
        if (free_ == none) {
            if constexpr (is_quiet<Payload>) {
                places_.emplace_back();
            } else {
                reserve_by_halves(places_, places_.size() + 1);
                places_.push_back(make_owned<place>());
            }
            free_ = static_cast<std::uint32_t>(places_.size() - 1);
        }
        return free_;
    }

    place& place_at(std::uint32_t sleeper) noexcept {
        if constexpr (is_quiet<Payload>) {
            return places_[sleeper];
        } else {
            return *places_[sleeper];
        }
    }
    const place& place_at(std::uint32_t sleeper) const noexcept {
        return const_cast<sleepers&>(*this).place_at(sleeper);
    }

    std::conditional_t<is_quiet<Payload>, std::vector<place>, std::vector<owned<place>>> places_; ///< which stay
    std::uint32_t free_ = none;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
