// Channels, states and formulas as something whose payloads leave the program.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/data/json.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/values/value_port.hpp>
#include <courier/subscriber.hpp>

#include <source_location>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What is said of a source when it is shown.
struct shown_source {
    std::string_view name;
    std::string_view type;               ///< of the payload
    const field_table* fields = nullptr; ///< of the payload; null where there are none
    const value_type* state = nullptr;   ///< of a state's value; else null
    std::string_view address_type = {};  ///< of what has addresses
    bool keeps_latest = false;           ///< one who comes late wants the latest
};

/// False when nothing is known of its payload's fields, or of its value.
[[nodiscard]] bool describe(const port& source, shown_source& what);

template <class Source>
[[nodiscard]] port described_port(const Source& source) {
    if constexpr (holds_value<Source>) {
        static_assert(make_type<typename Source::value_type>().kind != value_kind::other,
                      "courier: nothing is known of values of this type; see courier/fields.hpp");
    } else {
        using payload = typename Source::payload_type;
        static_assert(std::is_empty_v<payload> || fields_of<payload>() != nullptr,
                      "courier: the fields of this payload are not known; see courier/fields.hpp");
    }
    return port_of(source);
}

/// Takes what a source publishes, or a value's new one.
class payload_taker {
public:
    virtual void take(const void* payload, address_label to) = 0;

protected:
    payload_taker() = default;
    payload_taker(const payload_taker&) = default;
    payload_taker& operator=(const payload_taker&) = default;
    ~payload_taker() = default;
};

/// `to` gets what there is and what will come, as long as `in` lives; of a list all of it each time.
void subscribe_port(subscriber& in, const port& source, payload_taker& to, std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
