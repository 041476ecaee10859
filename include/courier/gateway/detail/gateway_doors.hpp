// What a gateway shows and takes, without the types.
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/delivery/address_text.hpp>
#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/delivery/payload_kind.hpp>
#include <courier/publisher.hpp>
#include <courier/receipt.hpp>

#include <concepts>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What is said of something when it is shown.
struct shown_source {
    std::string_view name;
    std::string_view type;               ///< of the payload
    const field_table* fields = nullptr; ///< of the payload; null where there are none
    const value_type* state = nullptr;   ///< of a state's value; else null
    std::string_view address_type = {};  ///< of what has addresses
    bool keeps_latest = false;           ///< one who comes late wants the latest
};

/// Where what is shown goes; it stays where it is for as long as the gateway.
struct shown_place;
void show_value(shown_place& to, const void* value, address_label address);

/// A payload that may come in.
class payload_door {
public:
    payload_door() = default;
    payload_door(const payload_door&) = delete;
    payload_door& operator=(const payload_door&) = delete;
    virtual ~payload_door() = default;

    [[nodiscard]] virtual void* make() const = 0;
    virtual void destroy(void* payload) const noexcept = 0;
    virtual receipt publish(const void* payload, std::source_location where) const = 0;

    std::string name;
    std::string_view type;
    const field_table* fields = nullptr;
};

template <class Payload>
class typed_payload_door final : public payload_door {
    static_assert(std::is_default_constructible_v<Payload>,
                  "courier: a payload that comes from outside is a struct that can be made of nothing");

public:
    explicit typed_payload_door(channel<Payload>& to) : out_(to, "gateway") {
        name = to.name();
        type = type_name<Payload>();
        fields = fields_of<Payload>();
    }
    [[nodiscard]] void* make() const override { return new Payload(); }
    void destroy(void* payload) const noexcept override { delete static_cast<Payload*>(payload); }
    receipt publish(const void* payload, std::source_location where) const override {
        return out_.publish(*static_cast<const Payload*>(payload), where);
    }

private:
    publisher<Payload> out_;
};

// clang-format off
template <class Source>
concept has_addresses = requires { typename Source::address_type; };
template <class Source>
concept has_value = requires(const Source& source) {
    typename Source::value_type;
    source.glance();
};
// clang-format on

} // namespace detail
WIRED_COURIER_NAMESPACE_END
