// What becomes of an object, announced with the object itself.
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/publisher.hpp>

#include <source_location>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Payloads that carry the object they speak of, with its type, so that a
/// listener needs no cast. The object is whole while they are published; keep
/// no reference to it past `destroyed`.
template <class Object>
struct created {
    Object& object;
};
template <class Object>
struct enabled {
    Object& object;
};
template <class Object>
struct disabled {
    Object& object;
};
template <class Object>
struct destroyed {
    Object& object;
};

/// The four channels on which objects of one type announce themselves: one set
/// for all of them, owned by whoever looks after them, or a set for one.
template <class Object>
class lifecycle_channels {
public:
    /// `name` is what the channels' names begin with, such as "barge".
    explicit lifecycle_channels(std::string_view name)
        : created_(std::string{name} + ".created"), enabled_(std::string{name} + ".enabled"),
          disabled_(std::string{name} + ".disabled"), destroyed_(std::string{name} + ".destroyed") {}

    [[nodiscard]] const channel<courier::created<Object>>& created() const noexcept { return created_; }
    [[nodiscard]] const channel<courier::enabled<Object>>& enabled() const noexcept { return enabled_; }
    [[nodiscard]] const channel<courier::disabled<Object>>& disabled() const noexcept { return disabled_; }
    [[nodiscard]] const channel<courier::destroyed<Object>>& destroyed() const noexcept { return destroyed_; }

private:
    template <class>
    friend class lifecycle;

    channel<courier::created<Object>> created_;
    channel<courier::enabled<Object>> enabled_;
    channel<courier::disabled<Object>> disabled_;
    channel<courier::destroyed<Object>> destroyed_;
};

/// Announces what becomes of the object it is a member of: `created` when it
/// is made, `enabled` and `disabled` when that changes, and at the end, should
/// it be enabled, `disabled`, then `destroyed`. Each comes exactly once.
///
///     class Barge {
///         ...
///         courier::lifecycle<Barge> life_{*this, channels};   // the last member
///     };
///
/// Declare it last: then every other member is there when it announces, at the
/// beginning and at the end. For the same reason the class should be final.
/// The channels may end first; nothing is announced then. Can be neither copied nor
/// moved, and so neither can the object, whose address has been given away.
/// What a handler throws at the end goes to the channel's failure handler or,
/// if there is none, is raised as `fault_code::failure_lost`.
/// A handler must not destroy the object while it is being made or destroyed.
template <class Object>
class lifecycle {
public:
    lifecycle(Object& self, lifecycle_channels<Object>& on,
              std::source_location where = std::source_location::current())
        : self_(self), where_(where), enabled_on_(on.enabled_), disabled_on_(on.disabled_, on.disabled_.name()),
          destroyed_on_(on.destroyed_, on.destroyed_.name()) {
        on.created_.publish({.object = self}, where);
    }
    lifecycle(const lifecycle&) = delete;
    lifecycle& operator=(const lifecycle&) = delete;
    ~lifecycle() {
        detail::at_the_end(disabled_on_.name(), [this] { disable(where_); });
        detail::at_the_end(destroyed_on_.name(), [this] { destroyed_on_.publish({.object = self_}, where_); });
    }

    /// Announces the change; does nothing when it is none.
    void enable(std::source_location where = std::source_location::current()) {
        if (!std::exchange(is_enabled_, true)) {
            enabled_on_.publish({.object = self_}, where);
        }
    }
    void disable(std::source_location where = std::source_location::current()) {
        if (std::exchange(is_enabled_, false)) {
            disabled_on_.publish({.object = self_}, where);
        }
    }
    [[nodiscard]] bool is_enabled() const noexcept { return is_enabled_; }

private:
    Object& self_;
    std::source_location where_; ///< that it was made at, and is said to end at
    bool is_enabled_ = false;
    publisher<enabled<Object>> enabled_on_;
    publisher<disabled<Object>> disabled_on_;
    publisher<destroyed<Object>> destroyed_on_;
};

WIRED_COURIER_NAMESPACE_END
