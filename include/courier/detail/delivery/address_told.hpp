// How a handler learns the address that a payload was sent to.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_payload.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/callable.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/handler.hpp>

#include <concepts>
#include <cstddef>
#include <optional>
#include <span>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Takes the address in front of the payload; needs one.
template <class F, class Payload, class Address>
concept takes_address = !takes_payload<F, Payload> && !takes_span<F, Payload> && !takes_nothing<F, Payload> &&
                        callable<F&, const Address&, const Payload&>;

/// The same as a pointer, which is null for what was sent to everyone or to a group.
template <class F, class Payload, class Address>
concept takes_any_address = !takes_payload<F, Payload> && !takes_span<F, Payload> && !takes_nothing<F, Payload> &&
                            !takes_address<F, Payload, Address> && callable<F&, const Address*, const Payload&>;

/// Takes payloads side by side, each with its address.
template <class F, class Payload, class Address>
concept takes_posts = !takes_payload<F, Payload> && !takes_span<F, Payload> && !takes_nothing<F, Payload> &&
                      callable<F&, std::span<const addressed_payload<Payload, Address>>>;

/// Where the newest payload for one address is being sent to, on this thread.
struct told_address {
    const void* address = nullptr;
    const channel_core* on = nullptr;
    const flight* outer = nullptr; ///< the publish around that one
};

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit told_address newest_address;

/// What is published meanwhile on that channel is for that address; what its
/// handlers publish is not.
class telling_address {
public:
    telling_address(const channel_core& on, const void* address) noexcept
        : before_(std::exchange(newest_address, told_address{address, &on, innermost()})) {}
    telling_address(const telling_address&) = delete;
    telling_address& operator=(const telling_address&) = delete;
    ~telling_address() { newest_address = before_; }

private:
    told_address before_;
};

/// In a handler: what its payload was sent to; null for everyone, or a group.
[[nodiscard]] inline const void* address_here() noexcept {
    const flight& now = *innermost();
    return newest_address.on == &now.channel() && newest_address.outer == now.outer() ? newest_address.address
                                                                                      : nullptr;
}

/// From now on those who publish to an address on this channel tell it.
inline void tell_addresses(channel_core& core) noexcept {
    if (!core.closed) {
        core.work |= work_tells;
    }
}

/// A handler that listens to all addresses.
template <class F, class Payload, class Address>
struct told_of_address {
    F handler;

    decltype(auto) operator()(const Payload& payload) { return tell(handler, payload); }
    decltype(auto) operator()(const Payload& payload) const
        requires takes_address<const F, Payload, Address> || takes_any_address<const F, Payload, Address>
    {
        return tell(handler, payload);
    }

private:
    template <class G>
    static decltype(auto) tell(G& handler, const Payload& payload) {
        const auto* const to = static_cast<const Address*>(address_here());
        if constexpr (takes_any_address<G, Payload, Address>) {
            return handler(to, payload);
        } else {
            using result = decltype(handler(*to, payload));
            if (to == nullptr) {
                miss(turn::condition);
                if constexpr (std::is_void_v<result>) {
                    return;
                } else {
                    return result{};
                }
            } else {
                return handler(*to, payload);
            }
        }
    }
};

template <class F, class P, class A>
void run_posts(void* state, const void* first, std::size_t count) {
    using item = addressed_payload<P, A>;
    (*static_cast<F*>(state))(std::span<const item>(static_cast<const item*>(first), count));
}

template <class F, class P, class A>
void run_posts_of_one(void* context, const void* payload) {
    slot& s = *static_cast<slot*>(context);
    if (!waits_for_batch(s, payload)) {
        const auto* const to = static_cast<const A*>(address_here());
        const addressed_payload<P, A> one{to != nullptr ? std::optional<A>(*to) : std::nullopt,
                                          *static_cast<const P*>(payload)};
        run_posts<F, P, A>(state_of(s), &one, 1);
    }
}

template <class F, class P, class A>
consteval handler_ops make_posts_ops() {
    static_assert(std::copy_constructible<P>, "courier: a payload that is published at once is copied for a handler "
                                              "that takes payloads with addresses, so it must be copyable");
    static_assert(std::is_void_v<std::invoke_result_t<F&, std::span<const addressed_payload<P, A>>>>,
                  "courier: a handler that takes a span gives no verdict, since it is served when others have been "
                  "served with each payload");
    handler_ops ops{};
    ops.invoke = &run_posts_of_one<F, P, A>;
    ops.invoke_span = &run_posts<F, P, A>;
    ops.construct = &construct_state<F>;
    if constexpr (!std::is_trivially_destructible_v<F>) {
        ops.destroy = &destroy_state_of<F>;
    }
    ops.module = &module_tag;
    ops.size = sizeof(F);
    ops.align = alignof(F);
    ops.traits = handler_takes_posts;
    return ops;
}

template <class F, class P, class A>
WIRED_COURIER_HIDDEN inline constexpr handler_ops posts_ops = make_posts_ops<F, P, A>();

/// A handler that is subscribed at one address.
template <class F, class Payload, class Address>
struct at_own_address {
    F handler;
    Address own;

    decltype(auto) operator()(const Payload& payload) {
        if constexpr (takes_any_address<F, Payload, Address>) {
            return handler(&std::as_const(own), payload);
        } else {
            return handler(std::as_const(own), payload);
        }
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
