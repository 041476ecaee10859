// Channels, states and formulas as something whose payloads leave the program.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/change.hpp>
#include <courier/channel.hpp>
#include <courier/data/json.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/subscriber.hpp>

#include <concepts>
#include <source_location>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

// clang-format off
template <class Source>
concept announces_items = holds_value<Source> && !std::is_same_v<typename Source::payload_type, change<typename Source::value_type>>;
// clang-format on

/// What is said of a source when it is shown.
struct shown_source {
    std::string_view name;
    std::string_view type;               ///< of the payload
    const field_table* fields = nullptr; ///< of the payload; null where there are none
    const value_type* state = nullptr;   ///< of a state's value; else null
    std::string_view address_type = {};  ///< of what has addresses
    bool keeps_latest = false;           ///< one who comes late wants the latest
};

/// What is said of a channel; false when the fields of its payload are not known.
[[nodiscard]] bool describe(const port& source, shown_source& what);

template <class Source>
[[nodiscard]] shown_source described(const Source& source) {
    shown_source what;
    what.name = source.name();
    if constexpr (holds_value<Source>) {
        using value = typename Source::value_type;
        what.type = type_name<value>();
        what.state = &known<value>::type;
        what.keeps_latest = true;
        static_assert(make_type<value>().kind != value_kind::other,
                      "courier: nothing is known of values of this type; see courier/fields.hpp");
    } else {
        using payload = typename Source::payload_type;
        static_assert(std::is_empty_v<payload> || fields_of<payload>() != nullptr,
                      "courier: the fields of this payload are not known; see courier/fields.hpp");
        static_cast<void>(describe(port_of(source), what));
    }
    return what;
}

/// Takes what a source publishes, or a state's new value.
class payload_taker {
public:
    virtual void take(const void* payload, address_label to) = 0;

protected:
    payload_taker() = default;
    payload_taker(const payload_taker&) = default;
    payload_taker& operator=(const payload_taker&) = default;
    ~payload_taker() = default;
};

void subscribe_port(subscriber& in, const port& source, payload_taker& to, std::source_location where);

/// `to` gets what there is and what will come, as long as `in` lives.
template <class Source>
void subscribe_taker(subscriber& in, const Source& source, payload_taker& to, std::source_location where) {
    if constexpr (announces_items<Source>) { // a list goes out as a whole
        const auto take_all = [&source, &to] { to.take(&source.glance(), {}); };
        take_all();
        in.subscribe(source, take_all, {}, where);
    } else if constexpr (holds_value<Source>) {
        using changed = change<typename Source::value_type>;
        in.subscribe(
            source, [&to](const changed& c) { to.take(&c.after(), {}); }, {.retained = true}, where);
    } else {
        subscribe_port(in, port_of(source), to, where);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
