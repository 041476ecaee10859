// Causes of wires: whatever can be subscribed to, without its type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/delivery_options.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/detail/delivery/followers.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/values/value_port.hpp>
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
/// behind it is to hear of the payload.
bool fire(live_wire& wire, const void* payload);

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
        return key == next.key && fields == next.fields && type == next.type && address_key == next.address_key;
    }

    std::string name;
    std::string type;      ///< of the payload
    std::uint64_t key = 0; ///< of the class that it is of
    const field_table* fields = nullptr;
    std::string_view address_type;
    std::uint64_t address_key = 0;
    const value_type* state = nullptr;  ///< of a state's value; else null
    const value_maker* maker = nullptr; ///< null: of such payloads none can be made
};

/// A channel.
class port_cause final : public cause_base {
public:
    explicit port_cause(const port& of);
    subscription_key attach(subscriber& in, live_wire& wire, const void* address, wire_options options) override;
    [[nodiscard]] bool is_there() const noexcept override { return !core_->closed && core_->kind != nullptr; }
    void take_over(cause_base& next) override;

private:
    held<channel_core> core_; ///< which may go first
    const port_ops* ops_;     ///< good while the core has a kind
};

/// A state or formula: its changes, and a copy of its value, which stays when it goes.
class value_cause final : public cause_base {
public:
    value_cause(const port& of, std::source_location where);
    ~value_cause() override;
    subscription_key attach(subscriber& in, live_wire& wire, const void* address, wire_options options) override;
    [[nodiscard]] bool is_there() const noexcept override { return !core_->closed && core_->kind != nullptr; }
    void take_over(cause_base& next) override;
    [[nodiscard]] const void* value() const noexcept { return latest_; }

private:
    void watch();

    held<channel_core> core_; ///< which may go first
    port of_;
    void* latest_;
    std::source_location where_;
    subscriber in_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
