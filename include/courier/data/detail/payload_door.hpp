// Where payloads from outside come in, without their types.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/values/value_port.hpp>
#include <courier/receipt.hpp>
#include <courier/state.hpp>

#include <memory>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A channel or a state that takes payloads from outside.
class payload_door {
public:
    payload_door() = default;
    payload_door(const payload_door&) = delete;
    payload_door& operator=(const payload_door&) = delete;
    virtual ~payload_door() = default;

    /// False once the module that has the types has been unloaded; nothing else is called then.
    [[nodiscard]] virtual bool is_there() const noexcept { return true; }

    // From any thread.
    [[nodiscard]] virtual void* make() const = 0;
    virtual void destroy(void* payload) const noexcept = 0;
    /// Whether it is an address of this channel; without one it is for everyone.
    [[nodiscard]] virtual bool takes_address(std::string_view address) const { return address.empty(); }

    // From that of the channel. `address` is one that it takes.
    virtual receipt publish(const void* payload, std::string_view address, std::source_location where) const = 0;

    std::string name;
    std::string_view type;
    const field_table* fields = nullptr;
    bool is_value = false;    ///< a state's
    bool has_address = false; ///< a payload is for one, or for everyone
};

#define WIRED_COURIER_NOT_MADE "courier: a payload that comes from outside is a struct that can be made of nothing"

template <class Payload>
inline constexpr bool made_of_nothing = std::is_default_constructible_v<Payload>;

/// Publishes on a channel under a name.
class port_door final : public payload_door {
public:
    port_door(const port& to, std::string_view as);

    [[nodiscard]] bool is_there() const noexcept override { return core_->kind != nullptr; }
    [[nodiscard]] void* make() const override { return ops_->maker->make(); }
    void destroy(void* payload) const noexcept override { ops_->maker->destroy(payload); }
    [[nodiscard]] bool takes_address(std::string_view address) const override;
    receipt publish(const void* payload, std::string_view address, std::source_location where) const override;

private:
    held<channel_core> core_; ///< which may end first
    const port_ops* ops_;
    std::string as_;
};

/// Whether payloads can come in from outside.
[[nodiscard]] bool has_door(const port& to) noexcept;

template <class Payload>
[[nodiscard]] std::unique_ptr<payload_door> door_to(channel<Payload>& to, std::string_view as) {
    static_assert(made_of_nothing<Payload>, WIRED_COURIER_NOT_MADE);
    return std::make_unique<port_door>(port_of(to), as);
}
template <class Payload, class Address>
[[nodiscard]] std::unique_ptr<payload_door> door_to(addressed_channel<Payload, Address>& to, std::string_view as) {
    static_assert(made_of_nothing<Payload>, WIRED_COURIER_NOT_MADE);
    static_assert(can_read_address<Address> && made_of_nothing<Address>,
                  "courier: an address that comes from outside is a number, an enumeration or a text");
    return std::make_unique<port_door>(port_of(to), as);
}

/// Sets a state.
class value_door final : public payload_door {
public:
    explicit value_door(const port& to);

    [[nodiscard]] void* make() const override { return of_.value->maker->make(); }
    void destroy(void* payload) const noexcept override { of_.value->maker->destroy(payload); }
    receipt publish(const void* payload, std::string_view, std::source_location where) const override;

private:
    held<channel_core> core_; ///< closed when the state goes
    port of_;
};

template <class T, class Same>
[[nodiscard]] std::unique_ptr<payload_door> door_to(state<T, Same>& to) {
    static_assert(made_of_nothing<T> && has_copies<T>,
                  "courier: a value that comes from outside can be made of nothing, and copied");
    return std::make_unique<value_door>(port_of(to));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
