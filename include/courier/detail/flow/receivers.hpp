// What a value goes through in a pipeline, and how that becomes one handler.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/copy_bytes.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/handler.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/verdict.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

// A receiver is what a value is given to, with what it came from:
// `next(value, from)`. It returns nothing or a verdict, as the handler at the
// end of all does. It says with `ends` whether it may end that, and with `asks`
// whether it runs code of the user's in front of the next one, and so has to
// ask whether that has ended or paused it: nothing further on is called then.

/// What a value came from: has `operator()`, which ends it once nothing more
/// can come of it (that may have been done before), and `is_over()`, whether it
/// has ended or is paused. This one stands for any in what is asked at compile time.
struct ending {
    void operator()() const;
    [[nodiscard]] bool is_over() const noexcept;
};

struct slot_ending {
    slot* s;
    void operator()() const { detach(*s); }
    [[nodiscard]] bool is_over() const noexcept { return s->blocked != 0; }
};

/// Whether a subscription with that handler, which is one word, has ended or
/// was paused in the innermost publish. Of two alike on one channel, which only
/// differ in whose they are, this may tell of the other one.
[[nodiscard]] bool is_over(const handler_ops* ops, const void* word) noexcept;

/// Of a handler that is one word, and does not know its slot; such a one never
/// ends by itself.
template <class Handler, class Payload>
struct word_ending {
    static_assert(sizeof(Handler) <= sizeof(void*));
    const Handler& handler;
    std::uint32_t before = this_thread.turn_changes;

    [[nodiscard]] bool is_over() const noexcept { return before != this_thread.turn_changes && looked_up(); }

private:
    [[gnu::noinline]] bool looked_up() const noexcept {
        void* word = nullptr;
        copy_bytes(&word, &handler, sizeof(Handler));
        return detail::is_over(&ops_of<Handler, Payload>, word);
    }
};

/// Where nobody ends or asks.
struct no_ending {
    void operator()() const noexcept {}
    [[nodiscard]] bool is_over() const noexcept { return false; }
};

/// Calling an `F` runs code of the user's; reading a data member does not.
template <class F>
inline constexpr bool runs_code = !std::is_member_object_pointer_v<F> && !std::is_same_v<F, std::identity>;

/// What a receiver returns for a `Value`: nothing, or a verdict. It says so
/// itself, so that nothing of it has to be compiled to find out.
template <class Next, class Value>
using received = typename std::remove_const_t<Next>::template gives<Value>;

/// What a receiver returns that gives nothing on: nothing, or a verdict.
template <class Result>
Result no_ruling() {
    if constexpr (!std::is_void_v<Result>) {
        return verdict::go_on;
    }
}
template <class Next, class Value>
received<Next, Value> given_nothing() {
    let_fall();
    return no_ruling<received<Next, Value>>();
}

/// Whether calling an `F` has ended or paused where the value came from.
template <class F, class From>
[[nodiscard]] bool is_over_after([[maybe_unused]] From* from) noexcept {
    if constexpr (runs_code<F>) {
        return from->is_over();
    } else {
        return false;
    }
}

/// The user's handler.
template <class Handler>
struct last_receiver {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class Value>
    using gives = handler_result<Handler, Value>;
    [[no_unique_address]] Handler handler;

    template <class Value, class From>
        requires callable<const Handler&, const Value&> || callable<const Handler&>
    gives<Value> operator()(const Value& value, From*) const {
        return call_handler<const Handler, Value>(handler, value);
    }
    template <class Value, class From>
    gives<Value> operator()(const Value& value, From*) {
        return call_handler<Handler, Value>(handler, value);
    }
};

/// The same, with those of the delivery options that are about what arrives.
template <class Handler>
struct guarded_receiver {
    static constexpr bool ends = true;
    static constexpr bool asks = true;
    template <class Value>
    using gives = handler_result<Handler, Value>;
    Handler handler;
    slot_guard guard;

    template <class Value, class From>
    gives<Value> operator()(const Value& value, From* end) {
        const turn state = guard.condition ? guard.condition(&value) : turn::served;
        if (state != turn::served || (guard.condition && end->is_over())) {
            miss(state);
            return no_ruling<gives<Value>>();
        }
        if (guard.times_left != 0 && --guard.times_left == 0) {
            (*end)();
        }
        return call_handler<Handler, Value>(handler, value);
    }
};

/// A chain without several sources and times, as an ordinary handler: one word
/// when all that is in it is one word.
template <class Payload, class Receiver>
struct chain {
    [[no_unique_address]] Receiver receiver;

    auto operator()(const Payload& payload) const
        requires callable<const Receiver&, const Payload&, const ending*>
    {
        if constexpr (Receiver::asks && sizeof(chain) <= sizeof(void*)) { // a larger one is called with its slot
            const word_ending<chain, Payload> from{*this};
            return receiver(payload, &from);
        } else {
            return receiver(payload, static_cast<const no_ending*>(nullptr));
        }
    }
    auto operator()(const Payload& payload) { return receiver(payload, static_cast<const no_ending*>(nullptr)); }
};

/// The same of one that ends by itself, and so is called with its slot.
template <class Payload, class Receiver>
consteval handler_ops make_ending_ops() {
    handler_ops ops{};
    ops.invoke = [](void* context, const void* payload) {
        slot& s = *static_cast<slot*>(context);
        const slot_ending end{&s};
        Receiver& receiver = *static_cast<Receiver*>(state_of(s));
        if constexpr (std::is_void_v<received<Receiver, Payload>>) {
            receiver(*static_cast<const Payload*>(payload), &end);
        } else if (const verdict ruling = receiver(*static_cast<const Payload*>(payload), &end);
                   ruling != verdict::go_on) {
            rule(ruling, s);
        }
    };
    ops.construct = &construct_state<Receiver>;
    ops.destroy = &destroy_state_of<Receiver>;
    ops.module = &module_tag;
    ops.size = sizeof(Receiver);
    ops.align = alignof(Receiver);
    ops.traits = std::is_void_v<received<Receiver, Payload>> ? handler_takes_slot : handler_has_verdict;
    return ops;
}

template <class Payload, class Receiver>
WIRED_COURIER_HIDDEN inline constexpr handler_ops ending_ops = make_ending_ops<Payload, Receiver>();

template <class Source, class Receiver>
slot* attach_chain(const Source& source, Receiver&& receiver, stage place, std::source_location where,
                   ownership whose) {
    using Payload = typename Source::payload_type;
    using own_type = std::decay_t<Receiver>;
    if constexpr (own_type::ends || (own_type::asks && !fits_a_word<chain<Payload, own_type>, Payload>)) {
        return access::attach_ops(source, &ending_ops<Payload, std::decay_t<Receiver>>, &receiver, place, where, whose);
    } else {
        chain<Payload, std::decay_t<Receiver>> own{std::forward<Receiver>(receiver)};
        delivery_options<Payload> options{.stage = place};
        return access::attach(source, own, options, where, whose);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
