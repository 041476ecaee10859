// What is no subscription, but is owned, paused, counted and ended like one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/delivery/onlooker.hpp>

#include <cstddef>
#include <new>
#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

extern thread_local constinit bool is_anchor_thread_ending;

/// Closes those of this thread on which nothing hangs, so that no ledger has them.
void close_idle_anchors() noexcept;

/// A channel of the thread's that nobody publishes on. It is made with the first anchor and goes when
/// the thread ends, or with the last anchor then, or under a ledger. Plain, so that it can be used
/// while a thread ends.
struct anchor_channel {
    channel_core* core = nullptr;
    std::size_t count = 0;
    anchor_channel* next = nullptr; ///< of the thread's
    bool is_listed = false;

    void open(const char* name);
    void close_if_idle() noexcept;
    /// Null when it was refused. The anchor has `held` only when it is there.
    template <class Held>
    slot* hang(const char* name, const handler_ops& ops, Held* held, std::source_location where, ownership whose) {
        if (core == nullptr) {
            open(name);
        }
        ++count;
        unless_done left([this] { leave(); });
        Held* none = nullptr;
        slot* const made = attach(*core, {&ops, &none, ordinary, where, whose});
        if (made != nullptr) {
            left.done();
            *static_cast<Held**>(state_of(*made)) = held;
        }
        return made;
    }
    /// One anchor less; called when what it held is destroyed.
    void leave() noexcept {
        if (--count == 0 && (is_noted(*core) || is_anchor_thread_ending)) [[unlikely]] {
            close_if_idle();
        }
    }
};

/// What an anchor holds; null while it is made.
template <class Held>
Held* held_by(slot& anchor) noexcept {
    return *static_cast<Held**>(state_of(anchor));
}

/// The operations of an anchor that holds a pointer to a `Held`, which are
/// called only when it does.
template <class Held, void (*Destroy)(Held&) noexcept>
constexpr handler_ops anchor_ops_of() {
    handler_ops ops{};
    ops.invoke = [](void*, const void*) {};
    ops.construct = [](void* to, void* from) { ::new (to) Held*(*static_cast<Held**>(from)); };
    ops.destroy = [](void* state) noexcept {
        if (Held* const held = *static_cast<Held**>(state); held != nullptr) {
            Destroy(*held);
        }
    };
    ops.size = sizeof(Held*);
    ops.align = alignof(Held*);
    return ops;
}

/// The same for an anchor that hears when it is paused or resumed.
template <class Held, void (*Destroy)(Held&) noexcept, void (*Told)(Held&, bool blocked) noexcept>
constexpr handler_ops anchor_ops_of() {
    handler_ops ops = anchor_ops_of<Held, Destroy>();
    ops.told = [](slot& s) noexcept {
        if (Held* const held = held_by<Held>(s); held != nullptr) {
            Told(*held, s.blocked != 0);
        }
    };
    return ops;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
