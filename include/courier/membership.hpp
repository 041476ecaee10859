// One member's place in a group.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/roll.hpp>

#include <cstdint>
#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

template <class Address>
class group; // courier: #include <courier/group.hpp>

namespace detail {

struct membership_count {
    std::uint32_t times;  ///< memberships held
    std::uint64_t number; ///< tells one stay from the next
};

template <class Address>
struct group_core : counted<group_core<Address>> {
    explicit group_core(group<Address>& of) : owner(&of) {}

    group<Address>* owner;
    roll<Address, membership_count> members;
    std::uint64_t stays = 0;
};

} // namespace detail

/// Owns one member's place in a group: destroying it leaves. Movable; the
/// group may end first.
template <class Address>
class [[nodiscard("courier: the member leaves the group as soon as this membership is destroyed")]] membership {
public:
    /// In no group.
    membership() noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    membership(membership&& other) noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    membership& operator=(membership&& other) noexcept {
        detail::replace_handle(*this, std::move(other));
        return *this;
    }
    membership(const membership&) = delete; // courier: moved only: std::move() it, or hold it by std::shared_ptr
    membership& operator=(const membership&) = delete;
    ~membership() {
        if (core_) {
            detail::at_the_end("a group's left()", [this] { end(); });
        }
    }

    /// Leaves the group; does nothing when not live.
    void end() {
        if (const auto core = std::move(core_); core && core->owner != nullptr) {
            core->owner->leave_once(member_, number_, where_);
        }
    }

    /// Whether it is still a member.
    [[nodiscard]] bool live() const {
        if (!core_ || core_->owner == nullptr) {
            return false;
        }
        const auto* const count = core_->members.find(member_);
        return count != nullptr && count->number == number_;
    }

private:
    friend class group<Address>;
    membership(detail::group_core<Address>& core, const Address& member, std::uint64_t number,
               std::source_location where)
        : core_(core), member_(member), number_(number), where_(where) {}

    detail::held<detail::group_core<Address>> core_;
    Address member_{};
    std::uint64_t number_ = 0;
    std::source_location where_ = {}; ///< that it was made at, and is said to leave from
};

WIRED_COURIER_NAMESPACE_END
