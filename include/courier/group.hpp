// Addresses under one name.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/roll.hpp>
#include <courier/membership.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// What a group's channels carry.
template <class Address>
struct group_joined {
    Address member;
};
/// A member has left its group.
template <class Address>
struct group_left {
    Address member;
};

/// A name for many addresses, to be published to as one and to be followed by
/// tallies. Members join and leave while it lives; the order is that of
/// joining. An address that joins several times is one member, which leaves
/// with its last membership.
///
///     courier::group<int> convoy{"convoy"};
///     in_convoy_ = convoy.join(3);                    // a member of the joining object
///     bitten.publish_to(convoy, {.crates = 1});
///
/// A group belongs to one thread and can be neither copied nor moved. Every
/// member may be called from a handler; a handler may destroy the group.
template <class Address>
class group {
public:
    /// `name` is for messages and reports and is copied.
    explicit group(std::string_view name = {})
        : joined_(std::string{name} + ".joined"), left_(std::string{name} + ".left"), name_(name),
          core_(detail::held<detail::group_core<Address>>::taking_over(new detail::group_core<Address>(*this))) {}
    group(const group&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    group& operator=(const group&) = delete;
    /// All members leave, which is not announced.
    ~group() {
        core_->owner = nullptr;
        core_->members.clear();
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return name_; }

    /// Makes `member` one, and says so on `joined()` when it was none.
    membership<Address> join(const Address& member, std::source_location where = std::source_location::current()) {
        if (detail::membership_count* there = core_->members.find(member); there != nullptr) {
            membership<Address> made{*core_, member, there->number, where}; // which takes memory, perhaps
            ++there->times;
            return made;
        }
        membership<Address> made{*core_, member, core_->stays + 1, where};
        const group_joined<Address> announced{member};
        core_->members.add(member, {.times = 1, .number = ++core_->stays});
        joined_.publish(announced, where);
        return made;
    }

    /// Puts a member out, however often it joined; false when it was none.
    bool leave(const Address& member, std::source_location where = std::source_location::current()) {
        const Address copy = member; // it may lie in what goes
        if (!core_->members.remove(copy)) {
            return false;
        }
        left_.publish({.member = copy}, where);
        return true;
    }

    /// Whether it is a member.
    [[nodiscard]] bool has(const Address& member) const { return core_->members.find(member) != nullptr; }
    /// How many members there are.
    [[nodiscard]] std::size_t size() const noexcept { return core_->members.size(); }
    /// Whether there is none.
    [[nodiscard]] bool empty() const noexcept { return size() == 0; }

    /// All members, in the order in which they joined.
    [[nodiscard]] std::vector<Address> members() const {
        std::vector<Address> all;
        all.reserve(size());
        each([&all](const Address& member) { all.push_back(member); });
        return all;
    }

    /// Visits the members without a copy; `visit` must not change the group.
    template <class Visit>
    void each(Visit visit) const {
        core_->members.each([&visit](const Address& member, const auto&) { visit(member); });
    }

    /// Each member that has joined.
    [[nodiscard]] const channel<group_joined<Address>>& joined() const noexcept { return joined_; }
    /// Each member that has left, after it has.
    [[nodiscard]] const channel<group_left<Address>>& left() const noexcept { return left_; }

private:
    friend class membership<Address>;
    friend struct detail::access;

    void leave_once(const Address& member, std::uint64_t number, std::source_location where) {
        detail::membership_count* const there = core_->members.find(member);
        if (there != nullptr && there->number == number && --there->times == 0) {
            leave(member, where);
        }
    }

    channel<group_joined<Address>> joined_;
    channel<group_left<Address>> left_;
    std::string name_;
    detail::held<detail::group_core<Address>> core_;
};

WIRED_COURIER_NAMESPACE_END
