// Finds channels and queries by what they carry, and values by name.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/channel_name.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/refusals.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/query.hpp>

#include <cstddef>
#include <functional>
#include <new>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

template <class T, class Same>
class state;

namespace detail {

template <class Payload>
struct channel_kind {
    using type = channel<Payload>;
    static constexpr const port_ops* ops = &port_ops_of<Payload>;
    static constexpr addressing how = addressing::none;
};
template <class Payload>
    requires requires { typename Payload::address; }
struct channel_kind<Payload> {
    using type = addressed_channel<Payload, typename Payload::address>;
    static constexpr addressing how = addressing_by<typename Payload::address>;
    static constexpr const port_ops* ops = &port_ops_of<Payload, typename Payload::address>;
};

/// Stands for a query among the channels.
template <class Question>
struct query_kind {};

/// The name of a value, and the line that gives it.
struct value_name {
    template <class Text>
        requires std::is_convertible_v<const Text&, std::string_view>
    value_name(const Text& its_text, // NOLINT(google-explicit-constructor): written as a text
               std::source_location here = std::source_location::current())
        : text(its_text), where(here) {}

    std::string_view text;
    std::source_location where;
};

} // namespace detail

/// The type of a hub's channel: addressed, if the payload names an address
/// type (`using address = int;`).
template <class Payload>
using hub_channel = typename detail::channel_kind<Payload>::type;

/// Finds the channel of a payload type, and makes it on first use, for what
/// many systems need and few can be handed a reference to. What two or three
/// systems share is better a channel that one of them owns: it shows in the
/// code who may speak and who listens, and goes with its owner.
///
///     courier::hub match{"match"};
///     courier::publisher<Moored> out{match.channel<Moored>(), "harbour"};   // resolved once
///     in.subscribe(match.channel<Moored>(), handler);
///
/// There may be several: one for each match, each test, each half of a split
/// screen. A hub may have a parent; it then finds its parent's channels and
/// makes its own only of what no parent has. Let the parent have its channels
/// first (`app.channel<SettingsChanged>()` where it is set up): a hub that
/// asks earlier gets one of its own, which is reported when its parent makes
/// the other (`fault_code::channel_hidden`). `own_channel()` makes one on purpose.
///
/// A `const hub&` gives const channels, which can be subscribed to
/// only, and const queries, which can be asked only.
///
/// A reference to a channel is good as long as its hub; publishers, askers and
/// subscriptions may outlive the hub. A parent may end before its children,
/// which then find none of its channels any more. A hub and its channels belong
/// to one thread. Payloads keep their identity across shared libraries, and a
/// channel made by one stays when that is unloaded.
class hub : private detail::hub_core {
public:
    /// `name` is for messages and reports and is copied.
    explicit hub(std::string_view name = {}) : hub_core(name, nullptr) {}
    /// Finds channels of `parent` too, which must outlive it. `name` is copied.
    hub(std::string_view name, hub& parent) : hub_core(name, &parent) {}

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return hub_core::name(); }

    /// The channel of `Payload`. Looking it up each time costs less than half of
    /// a publish to one (docs/performance.md). `where` is for reports, should it be made now.
    template <class Payload>
    [[nodiscard]] hub_channel<Payload>& channel(std::source_location where = std::source_location::current()) {
        void* const known = find_known(detail::known_number_for<Payload>());
        return *static_cast<hub_channel<Payload>*>(known != nullptr ? known : open(channel_of<Payload>(), where));
    }
    template <class Payload>
    [[nodiscard]] const hub_channel<Payload>&
    /// Of a hub that may only be listened to.
    channel(std::source_location where = std::source_location::current()) const {
        return const_cast<hub*>(this)->channel<Payload>(where);
    }

    /// The channel of that name. Looks the text up, so resolve it once.
    template <class Payload>
    [[nodiscard]] hub_channel<Payload>& channel(const channel_name<Payload>& name,
                                                std::source_location where = std::source_location::current()) {
        return *static_cast<hub_channel<Payload>*>(open_named(channel_of<Payload>(), name.text(), where));
    }
    template <class Payload>
    [[nodiscard]] const hub_channel<Payload>&
    /// Of a hub that may only be listened to.
    channel(const channel_name<Payload>& name, std::source_location where = std::source_location::current()) const {
        return const_cast<hub*>(this)->channel(name, where);
    }

    /// This hub's own channel of `Payload`, whatever its parent has.
    template <class Payload>
    [[nodiscard]] hub_channel<Payload>& own_channel(std::source_location where = std::source_location::current()) {
        return *static_cast<hub_channel<Payload>*>(open_own(channel_of<Payload>(), where));
    }

    /// The channel of `Payload` if this hub or a parent has it, or null.
    template <class Payload>
    [[nodiscard]] const hub_channel<Payload>* find() const noexcept {
        return static_cast<const hub_channel<Payload>*>(find_anywhere(channel_of<Payload>()));
    }

    /// The channel with that name, which comes from outside the program, such
    /// as a data file. Null when there is none, or when it carries something
    /// else; then `fault_code::unknown_channel` is raised, with the channels there,
    /// or the nearest name of a channel of that payload (`payload_named()` asks
    /// without a fault).
    template <class Payload>
    [[nodiscard]] hub_channel<Payload>* find_named(std::string_view text,
                                                   std::source_location where = std::source_location::current()) {
        return static_cast<hub_channel<Payload>*>(find_text(channel_of<Payload>(), text, where));
    }

    /// The type of the payload, or question, that the channel with that name
    /// carries; empty when there is none. For code that tries several types.
    [[nodiscard]] std::string_view payload_named(std::string_view text) const { return type_named(text); }

    /// The query with that question.
    template <class Question>
    [[nodiscard]] courier::query<Question>& query(std::source_location where = std::source_location::current()) {
        void* const known = find_known(detail::known_number_for<detail::query_kind<Question>>());
        return *static_cast<courier::query<Question>*>(known != nullptr ? known : open(query_of<Question>(), where));
    }
    template <class Question>
    [[nodiscard]] const courier::query<Question>&
    /// Of a hub that may only be asked.
    query(std::source_location where = std::source_location::current()) const {
        return const_cast<hub*>(this)->query<Question>(where);
    }

    /// The value of that name: a `state`, `formula` or `announced_list`, which belongs to the hub and ends with it.
    /// The first to ask makes it of what follows the name, as its constructor takes it; for others that counts for
    /// nothing. Needs courier/hub_values.hpp. Looks the text up, so resolve it once. A module that makes values ends
    /// their hub before it is unloaded, since their code is its own. The name of something else is reported
    /// (`fault_code::name_clash`), and there are two of that name then.
    ///
    ///     auto& is_open = match.value<courier::formula<bool>>("bar.open", [&tide] { return tide.read() > 2; });
    template <class Value, class... How>
    Value& value(detail::value_name name, How&&... how) {
        static_assert(
            requires(const Value& made) { port_of(made); },
            "courier: this is no state, formula or announced_list, or courier/hub_values.hpp is missing");
        const detail::hub_value its{detail::number_for<Value>(), detail::type_name<Value>(),
                                    [](void* made) noexcept { delete static_cast<Value*>(made); }};
        if (void* const known = hub_core::find_value(its.number, name.text); known != nullptr) {
            return *static_cast<Value*>(known);
        }
        auto made = detail::make_owned<Value>(name.text, std::forward<How>(how)...);
        const detail::port its_port = port_of(*made);
        take_value(its_port, its, name.text, name.where);
        Value& kept = *made.release();
        tell_watches(its_port);
        return kept;
    }
    /// The state of that name, with the value that it has at first; as `value()`.
    ///
    ///     courier::state<int>& tide = match.state<int>("tide.level", 3);
    template <class T>
    courier::state<T, std::equal_to<>>& state(detail::value_name name, T first = {}) {
        return value<courier::state<T, std::equal_to<>>>(name, std::move(first));
    }
    /// The value of that name if this hub or a parent has it, or null.
    template <class Value>
    [[nodiscard]] const Value* find_value(std::string_view text) const noexcept {
        return static_cast<const Value*>(hub_core::find_value(detail::number_for<Value>(), text));
    }

    /// Everything this hub made, in that order; its parents' not included.
    using hub_core::list;

    /// How many channels, queries and values this hub made.
    using hub_core::size;

private:
    friend struct detail::access;
    detail::hub_core& core() noexcept { return *this; }

    template <class Payload>
    static detail::hub_request channel_of() {
        static_assert(detail::has_own_name<Payload>, WIRED_COURIER_NO_NAME);
        return {detail::number_for<Payload>(),
                detail::type_name<Payload>(),
                detail::channel_kind<Payload>::how,
                [](void* object, detail::channel_core& core) { ::new (object) hub_channel<Payload>(core); },
                &detail::kind_of<Payload>,
                detail::channel_kind<Payload>::ops};
    }
    template <class Question>
    static detail::hub_request query_of() {
        static_assert(detail::has_own_name<Question>, WIRED_COURIER_NO_NAME);
        return {detail::number_for<detail::query_kind<Question>>(), detail::type_name<Question>(),
                detail::addressing::none,
                [](void* object, detail::channel_core& core) { ::new (object) courier::query<Question>(core); },
                &detail::kind_of<typename courier::query<Question>::travelling>};
    }
};

WIRED_COURIER_NAMESPACE_END
