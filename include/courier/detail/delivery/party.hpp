// What subscriptions know of the subscriber that owns them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/slot.hpp>

#include <cstddef>
#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct party;
class followers;

/// Whose a subscription is.
struct ownership {
    party* owner = nullptr;           ///< has it in its list, and ends it
    const party* on_behalf = nullptr; ///< whom reports name, of one without an owner

    ownership(party* who) noexcept
        : owner(who), on_behalf(who) {}   // NOLINT(google-explicit-constructor): as a parameter
    ownership(std::nullptr_t) noexcept {} // NOLINT(google-explicit-constructor): the same

    /// Something else owns it, in the end for `who`.
    [[nodiscard]] static ownership held_for(const party* who) noexcept {
        ownership made{nullptr};
        made.on_behalf = who;
        return made;
    }
};

/// Which subscriptions are a party's, once keys have been looked up among many.
struct key_index;

/// A walk through a party's list in which any of it may end.
struct party_walk {
    slot* next;
    party_walk* outer;
};

struct party : counted<party> { // by the subscriber, stop notes, and its slots that wait to be freed
    party() = default;
    party(const party&) = delete;
    party& operator=(const party&) = delete;
    ~party();

    [[nodiscard]] bool is_silent() const noexcept { return paused || asleep != 0; }

    slot* first = nullptr;
    std::size_t count = 0;
    std::string name;
    bool paused = false;         ///< by itself
    bool ended = false;          ///< the subscriber is gone
    bool comes_back = false;     ///< it subscribes again to what takes the place of what has ended
    std::uint32_t asleep = 0;    ///< how many of those that it follows sleep
    followers* led = nullptr;    ///< owned; those who follow the subscriber
    key_index* keys = nullptr;   ///< owned
    party_walk* walks = nullptr; ///< the innermost
    std::uint32_t ledger = 0;    ///< that has a number for it; 0: none
    std::uint32_t number = 0;
};

/// Those who follow a subscriber.
[[nodiscard]] followers& followers_of(party& who);
/// Adds one to those who follow something.
void add_follower(followers& to, party& who);

/// A level is being torn down: members that leave groups meanwhile complete nothing.
[[nodiscard]] bool is_level_ending() noexcept;

/// Puts a subscription into its owner's index of keys, or takes it out.
void enter_key(slot& s) noexcept;
void leave_key(slot& s) noexcept;

/// Puts a subscription into its owner's list, or takes it out.
inline void enter_party(slot& s) noexcept {
    party& owner = *s.owner;
    link(s, owner.first);
    ++owner.count;
    if (owner.keys != nullptr) [[unlikely]] {
        enter_key(s);
    }
}
inline void leave_party(slot& s) noexcept {
    party& owner = *s.owner;
    for (party_walk* walk = owner.walks; walk != nullptr; walk = walk->outer) {
        walk->next = walk->next == &s ? s.next : walk->next;
    }
    unlink(s);
    --owner.count;
    if (owner.keys != nullptr) [[unlikely]] {
        leave_key(s);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
