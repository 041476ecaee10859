// The subscribers that sleep, wake and end with something else.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/party.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// It serves nothing until as many calls of `wake_up()`.
void fall_asleep(party& who) noexcept;
void wake_up(party& who) noexcept;

/// In the source file, since its type costs every includer.
struct follower_list;

class followers {
public:
    explicit followers(bool is_awake) noexcept : awake_(is_awake) {}
    followers(const followers&) = delete;
    followers& operator=(const followers&) = delete;
    /// Ends the subscriptions of all, the newest follower first.
    ~followers();

    /// `is_made_inside`: it was made by what belongs there, rather than told to follow.
    void add(party& who, bool is_made_inside = false);
    void wake() noexcept;
    void sleep() noexcept;
    [[nodiscard]] bool awake() const noexcept { return awake_; }
    [[nodiscard]] const follower_list* all() const noexcept { return all_; } ///< null: none

private:
    follower_list* all_ = nullptr; ///< owned
    bool awake_;
    bool over_ = false;
};

/// While it lives, subscribers that are made on this thread follow `whom`; null: nobody.
class followed_when_made {
public:
    explicit followed_when_made(followers* whom) noexcept;
    followed_when_made(const followed_when_made&) = delete;
    followed_when_made& operator=(const followed_when_made&) = delete;
    ~followed_when_made();

private:
    followers* before_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
