// From a user's callable to what the delivery loop runs. Kept thin: this is
// all that is instantiated per handler type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/callable.hpp>
#include <courier/detail/base/copy_bytes.hpp>
#include <courier/detail/base/refusals.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/modules.hpp>
#include <courier/verdict.hpp>

#include <bit>
#include <concepts>
#include <new>
#include <span>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class>
inline constexpr bool always_false = false;

template <class F, class P>
concept takes_payload = callable<F&, const P&>;

template <class F, class P>
concept takes_nothing = callable<F&>;

template <class F, class P>
concept takes_span = !takes_payload<F, P> && callable<F&, std::span<const P>>; // generic ones take one

template <class F, class P>
decltype(auto) call_handler(F& f, const P& payload) {
    if constexpr (takes_payload<F, P>) {
        return f(payload);
    } else if constexpr (takes_span<F, P>) {
        return f(std::span<const P>(&payload, 1));
    } else {
        return f();
    }
}

template <class F, class P>
using handler_result = decltype(call_handler(std::declval<F&>(), std::declval<const P&>()));

template <class F, class P>
inline constexpr bool gives_verdict = std::is_same_v<handler_result<F, P>, verdict>;

// A small trivially copyable handler whose call operator is const is run on a
// copy that sits in the hot entry. As for the standard algorithms
// ([algorithms.requirements]), such function objects may be copied freely.
template <class F, class P>
inline constexpr bool // NOLINTNEXTLINE(misc-redundant-expression): they are so on this machine
    fits_a_word = sizeof(F) <= sizeof(void*) && alignof(F) <= alignof(void*) && std::is_trivially_copyable_v<F> &&
                  (callable<const F&, const P&> || (!takes_payload<F, P> && callable<const F&>)) &&
                  !gives_verdict<F, P> && !takes_span<F, P>;

template <class F, class P>
void run_word(void* word, const void* payload) {
    if constexpr (sizeof(F) == sizeof word) { // of which no copy is made in memory
        const F handler = std::bit_cast<F>(word);
        call_handler<const F, P>(handler, *static_cast<const P*>(payload));
    } else {
        alignas(F) std::byte copy[sizeof(F)];
        copy_bytes(copy, &word, sizeof(F));
        call_handler<const F, P>(*std::launder(reinterpret_cast<const F*>(copy)), *static_cast<const P*>(payload));
    }
}

template <class F, class P>
void run_state(void* state, const void* payload) {
    call_handler<F, P>(*static_cast<F*>(state), *static_cast<const P*>(payload));
}

template <class F, class P>
void run_verdict(void* context, const void* payload) {
    slot& s = *static_cast<slot*>(context);
    const verdict ruling = call_handler<F, P>(*static_cast<F*>(state_of(s)), *static_cast<const P*>(payload));
    if (ruling != verdict::go_on) [[unlikely]] {
        rule(ruling, s);
    }
}

template <class F, class P>
void run_span_of_one(void* context, const void* payload) {
    slot& s = *static_cast<slot*>(context);
    if (!waits_for_batch(s, payload)) {
        call_handler<F, P>(*static_cast<F*>(state_of(s)), *static_cast<const P*>(payload));
    }
}

template <class F, class P>
void run_span(void* state, const void* first, std::size_t count) {
    (*static_cast<F*>(state))(std::span<const P>(static_cast<const P*>(first), count));
}

template <class F>
void construct_state(void* to, void* from) {
    ::new (to) F(std::move(*static_cast<F*>(from)));
}

template <class F>
void destroy_state_of(void* state) noexcept {
    static_cast<F*>(state)->~F();
}

template <class F, class P>
consteval handler_ops make_ops() {
    handler_ops ops{};
    ops.module = &module_tag;
    ops.size = sizeof(F);
    ops.align = alignof(F);
    if constexpr (fits_a_word<F, P>) {
        ops.invoke = &run_word<F, P>;
        ops.traits = handler_is_word;
        return ops;
    } else {
        if constexpr (gives_verdict<F, P>) {
            ops.invoke = &run_verdict<F, P>;
            ops.traits = handler_has_verdict;
        } else if constexpr (takes_span<F, P>) {
            ops.invoke = &run_span_of_one<F, P>;
            ops.invoke_span = &run_span<F, P>;
            ops.traits = handler_takes_span;
        } else {
            ops.invoke = &run_state<F, P>;
        }
        ops.construct = &construct_state<F>;
        if constexpr (!std::is_trivially_destructible_v<F>) {
            ops.destroy = &destroy_state_of<F>;
        }
        return ops;
    }
}

// Hidden, so that every shared library has its own and can be unloaded: a
// symbol that the whole process shares would pin it.
template <class F, class P>
WIRED_COURIER_HIDDEN inline constexpr handler_ops ops_of = make_ops<F, P>();

template <class F, class P>
consteval bool handler_fits() {
    if constexpr (std::is_member_function_pointer_v<F> ||
                  (!takes_payload<F, P> && !takes_nothing<F, P> && !takes_span<F, P>)) {
        return false;
    } else {
        return std::is_void_v<handler_result<F, P>> || (gives_verdict<F, P> && !takes_span<F, P>);
    }
}

/// Whether a handler of this type may be subscribed to `Source`.
template <class Source, class F>
inline constexpr bool takes_handler = handler_fits<F, typename Source::payload_type>();

/// A member function with its object, as one word.
template <auto Method, class Object>
struct member_call {
    Object* object;

    template <class P>
        requires std::invocable<decltype(Method), Object&, const P&>
    decltype(auto) operator()(const P& payload) const {
        return (object->*Method)(payload); // g++ does not inline it through std::invoke
    }
    template <class P>
        requires std::invocable<decltype(Method), Object&, std::span<const P>>
    decltype(auto) operator()(std::span<const P> payloads) const {
        return (object->*Method)(payloads);
    }
    template <class Address, class P>
        requires std::invocable<decltype(Method), Object&, const Address&, const P&>
    decltype(auto) operator()(const Address& address, const P& payload) const {
        return (object->*Method)(address, payload);
    }
    decltype(auto) operator()() const
        requires std::invocable<decltype(Method), Object&>
    {
        return (object->*Method)();
    }
};

/// A free function known at compile time, as no word at all.
template <auto Function>
struct function_call {
    template <class P>
        requires std::invocable<decltype(Function), const P&>
    decltype(auto) operator()(const P& payload) const {
        return Function(payload);
    }
    template <class Address, class P>
        requires std::invocable<decltype(Function), const Address&, const P&>
    decltype(auto) operator()(const Address& address, const P& payload) const {
        return Function(address, payload);
    }
    decltype(auto) operator()() const
        requires std::invocable<decltype(Function)>
    {
        return Function();
    }
};

void report_empty_handler(const channel_core& core, std::source_location where);

/// What moves the handler at `handler`, or is its word, with the options.
template <class P>
slot* attach_with(channel_core& core, const handler_ops& ops, void* handler, delivery_options<P>& options,
                  std::source_location where, ownership whose, const address_request* at) {
    attach_request request{&ops, handler, options.stage, where, whose, at};
    if (guards::are_in(options)) [[unlikely]] {
        slot_guard guard = guards::of(options);
        request.guard = &guard;
        return attach(core, request);
    }
    return attach(core, request);
}

/// Declared only: a handler that does not fit, and that no assertion has turned down, does not link.
slot* never_subscribed();

template <class P, class F>
slot* attach_handler(channel_core& core, F& handler, delivery_options<P>& options, std::source_location where,
                     ownership whose, const address_request* at = nullptr) {
    if constexpr (handler_fits<F, P>()) {
        if constexpr (requires { handler == nullptr; }) {
            if (handler == nullptr) {
                report_empty_handler(core, where);
                return nullptr;
            }
        }
        if constexpr (fits_a_word<F, P>) {
            void* word = nullptr;
            copy_bytes(&word, &handler, sizeof(F));
            return attach_with(core, ops_of<F, P>, &word, options, where, whose, at);
        } else {
            return attach_with(core, ops_of<F, P>, &handler, options, where, whose, at);
        }
    } else {
        return never_subscribed(); // that the handler does not fit was said where it was subscribed
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
