// A channel without its types: the same functions for all channels of a payload and an address type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/address_text.hpp>
#include <courier/detail/delivery/payload_kind.hpp>
#include <courier/detail/delivery/publish_at.hpp>
#include <courier/receipt.hpp>

#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Makes values of a type.
struct value_maker {
    void* (*make)();
    void (*destroy)(void* value) noexcept;
};
template <class T>
inline constexpr value_maker makes{[]() -> void* { return new T(); },
                                   [](void* value) noexcept { delete static_cast<T*>(value); }};
/// Null where none can be made of nothing.
template <class T>
[[nodiscard]] constexpr const value_maker* maker_of() noexcept {
    if constexpr (std::is_default_constructible_v<T>) {
        return &makes<T>;
    } else {
        return nullptr;
    }
}

template <class Address>
inline constexpr bool can_read_address =
    std::is_enum_v<Address> || std::is_integral_v<Address> || std::is_assignable_v<Address&, std::string_view>;

/// What is done with addresses of a type.
struct address_ops {
    std::string_view name;
    std::uint64_t (*key)();   ///< tells the type from all others
    const value_type* type;   ///< null: none can be read from a text
    const value_maker* maker; ///< null: none can be made of nothing
    void (*write)(const void* address, std::string& to);
    /// Calls `use` with the address as a place to subscribe at, and returns what it returns.
    slot* (*attach)(const void* address, void* context, slot* (*use)(void* context, const address_request& at));
    receipt (*publish)(channel_core& on, const void* address, const void* payload, std::source_location where,
                       const std::string* publisher);
};

template <class Address>
struct address_ops_for {
    static slot* attach(const void* address, void* context, slot* (*use)(void* context, const address_request& at)) {
        return attach_at(*static_cast<const Address*>(address),
                         [&](const address_request& at) { return use(context, at); });
    }
    static receipt publish(channel_core& on, const void* address, const void* payload, std::source_location where,
                           const std::string* publisher) {
        return publish_at(on, *static_cast<const Address*>(address), payload, where, publisher);
    }
    static constexpr const value_type* type() {
        if constexpr (can_read_address<Address>) {
            return &known<Address>::type;
        } else {
            return nullptr;
        }
    }
    WIRED_COURIER_HIDDEN static constexpr address_ops ops{type_name<Address>(),
                                                          &key_of_type<Address>,
                                                          type(),
                                                          maker_of<Address>(),
                                                          &write_address<Address>,
                                                          &attach,
                                                          &publish};
};

/// What is done with payloads of a type.
struct port_ops {
    const payload_kind* kind;
    const value_maker* maker;   ///< null: no payload can be made of nothing
    const address_ops* address; ///< null: the channel has no addresses
};

template <class Payload, class Address = void>
WIRED_COURIER_HIDDEN inline constexpr port_ops port_ops_of{&kind_of<Payload>, maker_of<Payload>(),
                                                           &address_ops_for<Address>::ops};
template <class Payload>
WIRED_COURIER_HIDDEN inline constexpr port_ops port_ops_of<Payload, void>{&kind_of<Payload>, maker_of<Payload>(),
                                                                          nullptr};

/// Copies values of a type.
struct value_copier {
    void* (*copy)(const void* value);
    void (*assign)(void* to, const void* from);
    void (*destroy)(void* value) noexcept;
};

/// What is done with what has a value at any time, such as a state.
struct value_ops {
    std::uint64_t (*key)(); ///< of what it is, such as `state<int>`
    std::string_view type;  ///< of the value
    const value_type* value;
    const field_table* as_field;             ///< of a payload that consists of the value
    const value_maker* maker;                ///< null: none can be made of nothing
    const value_copier* copier;              ///< null: they cannot be copied
    const void* (*look)(const void* source); ///< the value, good until it changes
    /// The new value, of what is announced; null: not in there, as of lists.
    const void* (*after)(const void* announced) = nullptr;
    /// Gives it a value, which is moved from; null: it is computed.
    void (*set)(void* source, void* next, std::source_location where) = nullptr;
};

/// A channel, the changes of a value, or a hub's query, whose payload has no type here.
struct port {
    channel_core* core;
    const port_ops* ops;              ///< null: of a query, or the module that had the types has been unloaded
    const value_ops* value = nullptr; ///< null: it is no value
    void* source = nullptr;           ///< the value's; good while the core is not closed
};

template <class Payload>
[[nodiscard]] port port_of(const channel<Payload>& of) noexcept {
    return {access::core(of), &port_ops_of<Payload>};
}
template <class Payload, class Address>
[[nodiscard]] port port_of(const addressed_channel<Payload, Address>& of) noexcept {
    return {access::core(of), &port_ops_of<Payload, Address>};
}

/// Stands for a payload of a type that nobody knows here.
struct some_payload {
    char nothing;
};

/// What a port carries, or what it carries for one address, as a source to subscribe to.
class port_source {
public:
    using payload_type = some_payload;

    /// `address` null: all that it carries.
    explicit port_source(const port& of, const void* address = nullptr) noexcept : port_(of), address_(address) {}

    template <class Handler>
    slot* attach(Handler& handler, delivery_options<some_payload>& options, std::source_location where,
                 ownership whose) const {
        auto attach_to = [&](const address_request* at) {
            return attach_handler<some_payload>(*port_.core, handler, options, where, whose, at);
        };
        if (address_ == nullptr) {
            return attach_to(nullptr);
        }
        return port_.ops->address->attach(address_, &attach_to, [](void* context, const address_request& at) {
            return (*static_cast<decltype(attach_to)*>(context))(&at);
        });
    }

private:
    port port_;
    const void* address_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
