// Causes of wires: whatever can be subscribed to, without its type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/detail/delivery/followers.hpp>
#include <courier/detail/delivery/handler.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/verdict.hpp>

#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class live_wire;
/// A payload has come for it; it was not served if its conditions do not hold. Tells whether nobody
/// behind it is to hear of the payload. `address`: of the object that it is for, where the wire asked for that.
bool fire(live_wire& wire, const void* payload, const void* address = nullptr);

/// What is said when a wire is attached.
struct wire_options {
    courier::stage place = ordinary;
    courier::during during = {};
    std::source_location where;
    bool with_address = false; ///< the wire needs to know which object the event is for
    bool stops = false;        ///< the wire may keep payloads from those behind it

    /// The same for a payload.
    template <class Payload>
    [[nodiscard]] delivery_options<Payload> of() const {
        return {.stage = place, .during = during};
    }
};

/// Subscribes a wire to a source of payloads.
template <class Payload, class Source>
subscription_key attach_wire(subscriber& in, const Source& to, live_wire& wire, const wire_options& options) {
    if (options.stops) {
        return in.subscribe(
            to, [w = &wire](const Payload& payload) { return fire(*w, &payload) ? verdict::stop : verdict::go_on; },
            options.of<Payload>(), options.where);
    }
    return in.subscribe(
        to, [w = &wire](const Payload& payload) { fire(*w, &payload); }, options.of<Payload>(), options.where);
}

/// The same with the object that each is for.
template <class Payload, class Address>
subscription_key attach_wire_to_all(subscriber& in, const addressed_channel<Payload, Address>& to, live_wire& wire,
                                    const wire_options& options) {
    if (options.stops) {
        return in.subscribe(
            to,
            [w = &wire](const Address* at, const Payload& payload) {
                return fire(*w, &payload, at) ? verdict::stop : verdict::go_on;
            },
            options.of<Payload>(), options.where);
    }
    return in.subscribe(
        to, [w = &wire](const Address* at, const Payload& payload) { fire(*w, &payload, at); }, options.of<Payload>(),
        options.where);
}

/// Makes payloads of a type, to try wires with.
struct payload_maker {
    void* (*make)();
    void (*destroy)(void* payload);
};

template <class Payload>
void* make_payload() {
    return new Payload();
}
/// Null where none can be made of nothing.
template <class Payload>
[[nodiscard]] const payload_maker* maker_of() noexcept {
    if constexpr (std::is_default_constructible_v<Payload>) {
        static constexpr payload_maker made{&make_payload<Payload>,
                                            [](void* payload) { delete static_cast<Payload*>(payload); }};
        return &made;
    } else {
        return nullptr;
    }
}

class cause_base {
public:
    cause_base() = default;
    cause_base(const cause_base&) = delete;
    cause_base& operator=(const cause_base&) = delete;
    virtual ~cause_base() = default;

    /// `address` null: whatever address it is for. The cause may be gone; nothing comes then.
    virtual subscription_key attach(subscriber& in, live_wire& wire, const void* address, wire_options options) = 0;
    [[nodiscard]] virtual bool is_there() const noexcept = 0;
    /// From now on it stands for what `next`, which is alike, stands for.
    virtual void take_over(cause_base& next) = 0;
    [[nodiscard]] bool is_alike(const cause_base& next) const noexcept {
        return key == next.key && fields == next.fields && type == next.type;
    }

    std::string name;
    std::string type;      ///< of the payload
    std::uint64_t key = 0; ///< of the class that it is of
    const field_table* fields = nullptr;
    std::string_view address_type;
    std::uint64_t address_key = 0;
    const value_type* state = nullptr;    ///< of a state's value; else null
    const payload_maker* maker = nullptr; ///< null: of such payloads none can be made
};

/// Stands for a payload of a type that nobody knows here.
struct some_payload {
    char nothing;
};

/// A channel of any payload, as a source to subscribe to.
class any_channel {
public:
    using payload_type = some_payload;
    explicit any_channel(channel_core& core) noexcept : core_(core) {}

    template <class Handler>
    slot* attach(Handler& handler, delivery_options<some_payload>& options, std::source_location where,
                 ownership whose) const {
        return attach_handler<some_payload>(core_, handler, options, where, whose);
    }

private:
    channel_core& core_;
};

class channel_cause final : public cause_base {
public:
    explicit channel_cause(channel_core& core, const payload_maker* its_maker = nullptr);
    subscription_key attach(subscriber& in, live_wire& wire, const void* address, wire_options options) override;
    [[nodiscard]] bool is_there() const noexcept override { return !core_->closed; }
    void take_over(cause_base& next) override;

private:
    held<channel_core> core_; ///< which may go first
};

template <class Payload, class Address>
class addressed_cause final : public cause_base {
public:
    explicit addressed_cause(const addressed_channel<Payload, Address>& of) : core_(*access::core(of)), of_(&of) {
        name = of.name();
        type = type_name<Payload>();
        key = key_of_type<addressed_cause>();
        fields = fields_of<Payload>();
        address_type = type_name<Address>();
        address_key = key_of_type<Address>();
        maker = maker_of<Payload>();
    }

    subscription_key attach(subscriber& in, live_wire& wire, const void* address, wire_options options) override {
        if (!is_there()) {
            return {};
        }
        if (address != nullptr) {
            return attach_wire<Payload>(in, of_->at(*static_cast<const Address*>(address)), wire, options);
        }
        return options.with_address ? attach_wire_to_all(in, *of_, wire, options)
                                    : attach_wire<Payload>(in, *of_, wire, options);
    }
    [[nodiscard]] bool is_there() const noexcept override { return !core_->closed; }
    void take_over(cause_base& next) override {
        const auto& other = static_cast<const addressed_cause&>(next);
        core_ = other.core_;
        of_ = other.of_;
    }

private:
    held<channel_core> core_;                       ///< which may go first
    const addressed_channel<Payload, Address>* of_; ///< good while its core is not closed
};

/// A state or formula: its changes, and a copy of its value, which stays when it goes.
class state_base : public cause_base {
public:
    [[nodiscard]] virtual const void* value() const noexcept = 0;
};

template <class Source>
class state_cause final : public state_base {
    using value_type_of = typename Source::value_type;

public:
    state_cause(const Source& of, std::source_location where)
        : of_(&of), latest_(of.glance()), in_("wiring"), where_(where) {
        name = of.name();
        type = type_name<change<value_type_of>>();
        key = key_of_type<state_cause>();
        fields = fields_of<change<value_type_of>>();
        state = &known<value_type_of>::type;
        watch();
    }

    subscription_key attach(subscriber& in, live_wire& wire, const void*, wire_options options) override {
        if (!is_there()) {
            return {};
        }
        return attach_wire<change<value_type_of>>(in, *of_, wire, options);
    }
    [[nodiscard]] bool is_there() const noexcept override { return in_.live(own_); }
    void take_over(cause_base& next) override {
        auto& other = static_cast<state_cause&>(next);
        of_ = other.of_;
        latest_ = std::move(other.latest_);
        where_ = other.where_;
        in_.clear();
        watch();
    }
    [[nodiscard]] const void* value() const noexcept override { return &latest_; }

private:
    void watch() {
        own_ = in_.subscribe(
            *of_, [this](const change<value_type_of>& c) { latest_ = c.after(); }, {}, where_);
    }

    const Source* of_; ///< good while the subscription lives
    value_type_of latest_;
    subscriber in_;
    subscription_key own_;
    std::source_location where_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
