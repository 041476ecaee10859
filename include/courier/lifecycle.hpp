// What becomes of an object, announced with the object itself.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/delivery/followers.hpp>
#include <courier/publisher.hpp>

#include <source_location>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Payloads that carry the object they speak of, with its type, so that a
/// listener needs no cast. The object is whole while they are published; keep
/// no reference to it past `gone`.
template <class Object>
struct appeared {
    Object& object;
};
/// An object has been enabled.
template <class Object>
struct woke {
    Object& object;
};
/// An object has been disabled.
template <class Object>
struct slept {
    Object& object;
};
/// An object is about to be destroyed.
template <class Object>
struct gone {
    Object& object;
};

/// The four channels on which objects of one type announce themselves: one set
/// for all of them, owned by the class that manages them, or a set for one.
template <class Object>
class lifecycle_channels {
public:
    /// `name` is what the channels' names begin with, such as "barge".
    explicit lifecycle_channels(std::string_view name)
        : appeared_(std::string{name} + ".appeared"), woke_(std::string{name} + ".woke"),
          slept_(std::string{name} + ".slept"), gone_(std::string{name} + ".gone") {}

    /// An object was made.
    [[nodiscard]] const channel<courier::appeared<Object>>& appeared() const noexcept { return appeared_; }
    /// An object was enabled.
    [[nodiscard]] const channel<courier::woke<Object>>& woke() const noexcept { return woke_; }
    /// An object was disabled.
    [[nodiscard]] const channel<courier::slept<Object>>& slept() const noexcept { return slept_; }
    /// An object is about to be destroyed.
    [[nodiscard]] const channel<courier::gone<Object>>& gone() const noexcept { return gone_; }

private:
    template <class>
    friend class lifecycle;

    channel<courier::appeared<Object>> appeared_;
    channel<courier::woke<Object>> woke_;
    channel<courier::slept<Object>> slept_;
    channel<courier::gone<Object>> gone_;
};

/// How an object begins.
struct lifecycle_options {
    bool awake = false; ///< it wakes as soon as it has appeared
};

/// Announces what becomes of the object it is a member of: `appeared` when it
/// is made, `woke` and `slept` when that changes, and at the end, should
/// it be awake, `slept`, then `gone`. Each comes exactly once.
///
///     class Barge {
///         ...
///         courier::lifecycle<Barge> life_{*this, channels};   // the last member
///     };
///
/// Subscribers that follow it (`in_.follow(life_)`) serve nothing while the object is
/// asleep, as it is at first, and end with it: timers, sequences, refreshers, answers
/// and wired actions as well. Neither waking nor sleeping allocates, so that objects of a
/// pool can be made once and used again and again.
///
/// Declare it last: then every other member is there when it announces, at the
/// beginning and at the end. For the same reason the class should be final.
/// The channels may end first; nothing is announced then. Can be neither copied nor
/// moved, and so neither can the object, whose address has been given away.
/// What a handler throws at the end goes to the channel's failure handler or,
/// if there is none, is raised as `fault_code::failure_lost`.
/// A handler must not destroy the object while it is being made or gone.
template <class Object>
class lifecycle {
public:
    /// `self` is the object it is a member of. Announces `appeared`, and `woke` if `how` says so; what a
    /// handler throws comes out.
    lifecycle(Object& self, lifecycle_channels<Object>& on, lifecycle_options how = {},
              std::source_location where = std::source_location::current())
        : self_(self), where_(where), woke_on_(on.woke_), slept_on_(on.slept_, on.slept_.name()),
          gone_on_(on.gone_, on.gone_.name()) {
        on.appeared_.publish({.object = self}, where);
        if (how.awake) {
            wake(where);
        }
    }
    lifecycle(const lifecycle&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    lifecycle& operator=(const lifecycle&) = delete;
    ~lifecycle() {
        detail::at_the_end(slept_on_.name(), [this] { sleep(where_); });
        detail::at_the_end(gone_on_.name(), [this] { gone_on_.publish({.object = self_}, where_); });
    }

    /// Followers wake or sleep, and the change is announced; does nothing when it is none.
    void wake(std::source_location where = std::source_location::current()) {
        if (!awake()) {
            followers_.wake();
            woke_on_.publish({.object = self_}, where);
        }
    }
    /// Followers sleep, and `slept` is announced; does nothing when it is asleep.
    void sleep(std::source_location where = std::source_location::current()) {
        if (awake()) {
            followers_.sleep();
            slept_on_.publish({.object = self_}, where);
        }
    }
    /// Whether it is.
    [[nodiscard]] bool awake() const noexcept { return followers_.awake(); }

private:
    friend struct detail::access;
    detail::followers& followers() noexcept { return followers_; }

    Object& self_;
    std::source_location where_; ///< that it was made at, and is said to end at
    detail::followers followers_{false};
    publisher<woke<Object>> woke_on_;
    publisher<slept<Object>> slept_on_;
    publisher<gone<Object>> gone_on_;
};

WIRED_COURIER_NAMESPACE_END
