// Where payloads of one type travel.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/change.hpp> // first, so that messages about its forward declarations name few files
#include <courier/config.hpp>
#include <courier/detail/delivery/handler.hpp>
#include <courier/detail/delivery/publish.hpp>
#include <courier/receipt.hpp>
#include <courier/subscribable.hpp>

#include <concepts>
#include <cstddef>
#include <source_location>
#include <span>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

class hub;        // courier: #include <courier/hub.hpp>
class subscriber; // courier: #include <courier/subscriber.hpp>
template <class Payload>
class publisher; // courier: #include <courier/publisher.hpp>

/// Delivers payloads of one type, at once and in order, to the handlers
/// subscribed. The payload is a struct of named fields, an empty one when
/// there is nothing to say; it is passed by const reference and never copied,
/// so it need not be copyable.
///
/// A `channel&` lets code publish; a `const channel&` lets it
/// only subscribe. Show others a const reference.
///
/// Order: earlier stages first, within a stage in order of subscription. What
/// is subscribed during a publish is served from the next publish on; what
/// ends during a publish is not called again. A publish made from a handler is
/// delivered in full before the outer one goes on; nested more deeply than
/// `depth_limit()` it is refused. A handler that throws does not keep the
/// others from being served; see `publish()`.
///
/// Thread rule: a channel belongs to the thread that made it (see `adopt()`);
/// all members must be called there. Checked builds raise
/// `fault_code::wrong_thread` otherwise. Every member may be called from a
/// handler; a handler may also destroy the channel.
template <class Payload>
class channel : public subscribable<channel<Payload>, Payload> {
    static_assert(std::is_class_v<Payload> && std::is_same_v<Payload, std::remove_cvref_t<Payload>>,
                  "courier: a payload is a struct with named fields, without const or reference; wrap a single value "
                  "in a struct");

public:
    using payload_type = Payload;

    /// `name` is for messages and reports and is copied, such as "harbour.moored".
    explicit channel(std::string_view name) : core_(detail::open_core(name, &detail::kind_of<Payload>)) {}
    channel(const channel&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    channel& operator=(const channel&) = delete;

    /// Ends all subscriptions. A publish under way stops after the handler
    /// that is running.
    ~channel() { detail::close_core(*core_); }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// Serves everybody who is subscribed and returns when all have been
    /// served. Allocates nothing. Safe and cheap with nobody there.
    ///
    /// When handlers throw, the others are served all the same; then the first
    /// exception is thrown here, unless a failure handler takes them (see
    /// `on_failure()`).
    receipt publish(const Payload& payload, // courier: fields are named as the payload has them, in its order
                    std::source_location where = std::source_location::current()) {
        if constexpr (checked_build) {
            detail::check_use(*core_, "published on", where);
        }
        return detail::publish(*core_, &payload, where);
    }

    /// Publishes an empty payload.
    template <std::same_as<std::source_location> Place = std::source_location>
    receipt publish(Place where = std::source_location::current())
        requires std::is_empty_v<Payload>
    {
        return publish(Payload{}, where);
    }

    /// Publishes several payloads that lie side by side. Handlers that take one
    /// payload are served payload by payload, as if each had been published;
    /// then those that take a span are served, stage by stage, each once with
    /// all of them (in several pieces where a verdict or their condition left
    /// some out). The receipt counts a delivery for each handler and payload.
    /// The payloads must stay where they are until this returns.
    receipt publish_all(std::span<const Payload> payloads,
                        std::source_location where = std::source_location::current()) {
        if constexpr (checked_build) {
            detail::check_use(*core_, "published on", where);
        }
        return detail::publish_all(*core_, payloads.data(), payloads.size(), sizeof(Payload), where);
    }

    /// Does not compile; the message says what to write instead.
    template <class Other>
        requires(!std::is_convertible_v<Other, const Payload&> && !std::is_same_v<Other, std::source_location>)
    receipt publish(const Other&) {
        static_assert(detail::always_false<Other>, "courier: this channel carries another payload type");
        return {};
    }
    /// Does not compile; the message says what to write instead.
    template <class First, class Second, class... More>
        requires(!std::is_same_v<Second, std::source_location>)
    receipt publish(const First&, const Second&, const More&...) {
        static_assert(detail::always_false<First>, "courier: one payload is published, with its fields in braces: "
                                                   "publish({.boat = 1, .cargo = 2})");
        return {};
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    receipt publish(const Payload&) const {
        static_assert(!std::is_void_v<Never>, "courier: a const channel can be subscribed to only; to publish, hold "
                                              "the channel itself or a courier::publisher");
        return {};
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    receipt publish() const
        requires std::is_empty_v<Payload>
    {
        static_assert(!std::is_void_v<Never>, "courier: a const channel can be subscribed to only; to publish, hold "
                                              "the channel itself or a courier::publisher");
        return {};
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void>
    receipt publish() const
        requires(!std::is_empty_v<Payload>)
    {
        static_assert(!std::is_void_v<Never>, "courier: this channel's payload has fields; publish it with its values");
        return {};
    }

    /// From now on `handler` receives every exception of a handler, and publish
    /// no longer throws on their account. An empty one restores that. Has no
    /// effect with exceptions compiled out.
    void on_failure(failure_handler handler) {
        core_->on_failure_module = &detail::module_tag;
        core_->on_failure.swap(handler); // the one before ends last, and may end this channel
    }

    /// Keeps a copy of the latest payload from now on, for late subscribers
    /// and subscribe with `{.retained = true}`: they are served it before
    /// `subscribe()` returns. Both sides have to say so.
    void retain_latest()
        requires std::copy_constructible<Payload>
    {
        detail::keep_in(*core_, new detail::kept_one<Payload>());
    }

    /// Retains no payloads any more, and forgets the latest one.
    void forget_latest() noexcept { detail::keep_in(*core_, nullptr); }

    /// The retained payload, or null when there is none; good until the next publish.
    [[nodiscard]] const Payload* latest() const noexcept {
        return core_->kept != nullptr ? static_cast<const Payload*>(core_->kept->latest()) : nullptr;
    }

    /// How many subscriptions are live, paused ones included.
    [[nodiscard]] std::size_t size() const noexcept { return core_->live; }

    /// Makes sure that subscribing `count` handlers more, of at most 48 bytes
    /// each, allocates nothing.
    void reserve(std::size_t count) { detail::reserve(*core_, count); }

    /// Gives unused memory back. Does nothing while this channel is publishing.
    void shrink() noexcept { detail::shrink(*core_); }

    /// Bytes this channel occupies, subscriptions included and captures with
    /// an allocation of their own left out.
    [[nodiscard]] std::size_t bytes() const noexcept { return detail::bytes(*core_); }

    /// Makes the calling thread the one the channel belongs to. The thread it
    /// belonged to must have stopped using it.
    void adopt() noexcept { detail::adopt(*core_); }

protected:
    /// For the library.
    channel(std::string_view name, detail::addressing how)
        : core_(detail::open_core(name, &detail::kind_of<Payload>, how)) {}
    /// For the library.
    explicit channel(detail::channel_core& core) noexcept : core_(&core) {} // takes its reference

    detail::channel_core* core_;

private:
    friend class hub;
    friend class subscriber;
    template <class>
    friend class publisher;
    friend struct detail::access;

    template <class Handler>
    detail::slot* attach(Handler& handler, delivery_options<Payload>& options, std::source_location where,
                         detail::ownership whose) const {
        return detail::attach_handler<Payload>(*core_, handler, options, where, whose);
    }
    detail::slot* attach_ops(const detail::handler_ops* ops, void* handler, stage place, std::source_location where,
                             detail::ownership whose) const {
        return detail::attach(*core_, {ops, handler, place, where, whose});
    }
};

WIRED_COURIER_NAMESPACE_END
