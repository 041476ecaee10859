// What is no subscription, but is owned, paused, counted and ended like one.
#pragma once

#include <courier/detail/channel_core.hpp>

#include <cstddef>
#include <new>
#include <source_location>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// A channel of the thread's that nobody publishes on. What hangs on it is made
/// with the first anchor and goes with the last. Plain, so that it can be used
/// while a thread ends.
struct anchor_channel {
    channel_core* core = nullptr;
    std::size_t count = 0;

    /// Null when it was refused.
    slot* hang(const char* name, const handler_ops& ops, void* held, std::source_location where, party* owner) {
        if (core == nullptr) {
            core = open_core(name, nullptr);
        }
        ++count;
        slot* const made = attach(*core, {&ops, held, ordinary, 0, {}, where, owner});
        if (made == nullptr) {
            leave();
        }
        return made;
    }
    /// One anchor less; called when what it held is destroyed.
    void leave() noexcept {
        if (--count == 0) {
            close_core(*std::exchange(core, nullptr));
        }
    }
};

/// The operations of an anchor that holds a pointer to a `Held`.
template <class Held>
constexpr handler_ops anchor_ops_of(void (*destroy)(void*) noexcept, void (*told)(slot&) noexcept = nullptr) {
    handler_ops ops{};
    ops.invoke = [](void*, const void*) {};
    ops.construct = [](void* to, void* from) { ::new (to) Held*(*static_cast<Held**>(from)); };
    ops.destroy = destroy;
    ops.told = told;
    ops.size = sizeof(Held*);
    ops.align = alignof(Held*);
    return ops;
}

template <class Held>
Held& held_by(slot& anchor) noexcept {
    return **static_cast<Held**>(state_of(anchor));
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
