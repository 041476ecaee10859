// The name that an object has in wiring files.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <memory>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class wiring;

namespace detail {
struct target_place;
} // namespace detail

/// An object of a level has a name in data while this lives. Movable; the wiring may
/// end first.
// clang-format off
class [[nodiscard("courier: the name ends with this named_target")]] named_target {
public:
    named_target() noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    named_target(named_target&&) noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    named_target& operator=(named_target&& other) noexcept;
    ~named_target() { end(); }

    /// The name goes; wires that act on it wait.
    void end() noexcept;

private:
    friend class wiring;
    explicit named_target(std::shared_ptr<detail::target_place> place) noexcept : place_(std::move(place)) {}
    std::shared_ptr<detail::target_place> place_;
};
// clang-format on

WIRED_COURIER_NAMESPACE_END
