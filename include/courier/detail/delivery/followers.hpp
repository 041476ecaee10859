// The subscribers that sleep, wake and end with something else.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/party.hpp>

#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class followers;

/// It serves nothing until as many calls of `wake_up()`.
void fall_asleep(party& who) noexcept;
void wake_up(party& who) noexcept;

/// Those who follow a subscriber.
[[nodiscard]] followers& followers_of(party& who);

/// A subscriber that follows something.
struct follower {
    held<party> who;
    bool is_made_inside; ///< it was made by what belongs there, rather than told to follow
};

class followers {
public:
    explicit followers(bool is_awake) noexcept : awake_(is_awake) {}
    followers(const followers&) = delete;
    followers& operator=(const followers&) = delete;
    /// Ends the subscriptions of all, the newest follower first.
    ~followers();

    void add(party& who, bool is_made_inside = false);
    void wake() noexcept;
    void sleep() noexcept;
    [[nodiscard]] bool awake() const noexcept { return awake_; }
    [[nodiscard]] const std::vector<follower>& all() const noexcept { return all_; }

private:
    std::vector<follower> all_; ///< at most half of them have ended
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
