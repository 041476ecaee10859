// Systems that are kept as one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/systems_core.hpp>

#include <cstdint>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class systems; // courier: #include <courier/systems.hpp>

/// Several systems that were added together: they are paused, replaced and ended
/// as one. Owned: its end, or an assignment to it, ends them. Movable;
/// the systems may end first.
///
/// What other systems still need stays until these go, and what another team has
/// as well goes on for that.
class [[nodiscard("courier: the systems end as soon as this team is destroyed")]] team {
public:
    team() noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    team(team&& other) noexcept = default;
    /// Replaces what it was: those that both have stay as they are.
    team& operator=(team&& other) noexcept {
        detail::replace_handle(*this, std::move(other));
        return *this;
    }
    team(const team&) = delete;
    team& operator=(const team&) = delete;
    ~team() { end(); }

    /// They are destroyed; in the middle of a frame, or of anything that a
    /// handler does, when that is over: until then they are paused.
    void end() noexcept;
    /// Whether its systems are still updated.
    [[nodiscard]] bool live() const noexcept;

    /// They are not updated until `resume()`, and hear of it: `pause()` and
    /// `resume()` of a system that has both are called. One that another team
    /// has too, or that somebody who is not paused needs, goes on.
    void pause();
    /// Updates them again.
    void resume();
    /// Whether `pause()` holds.
    [[nodiscard]] bool paused() const noexcept;

private:
    friend class systems;
    team(detail::systems_core& core, std::uint32_t number) noexcept : core_(core), number_(number) {}

    detail::held<detail::systems_core> core_;
    std::uint32_t number_ = 0;
};

WIRED_COURIER_NAMESPACE_END
