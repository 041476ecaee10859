// What a channel keeps for late joiners.
#pragma once

#include <courier/detail/channel_core.hpp>
#include <courier/subscription.hpp>

#include <optional>
#include <source_location>
#include <type_traits>

namespace courier::inline WIRED_COURIER_ABI::detail {

/// Assigns where that can be done, since it may reuse memory.
template <class Payload>
void put(std::optional<Payload>& into, const Payload& payload) {
    if constexpr (std::is_copy_assignable_v<Payload>) {
        into = payload;
    } else {
        into.emplace(payload);
    }
}

template <class Payload>
class kept_one final : public kept_payloads {
public:
    void keep(const void* payload) override { put(newest_, *static_cast<const Payload*>(payload)); }
    void keep_at(const void*, const void*) override {}
    void serve(channel_core& core, slot& s, std::source_location where) override {
        if (newest_) {
            const Payload own = *newest_; // the handler may publish a newer one
            const void* const payload = &own;
            deliver_to_one(core, s, &payload, 1, where);
        }
    }
    [[nodiscard]] const void* latest() const noexcept override { return newest_ ? &*newest_ : nullptr; }

private:
    std::optional<Payload> newest_;
};

/// Serves what its channel keeps to a new subscription.
inline void serve_kept(slot& s, std::source_location where) {
    if (s.list->core->kept == nullptr) {
        return;
    }
    struct held_kept { // it may be given up meanwhile
        explicit held_kept(kept_payloads& of) noexcept : kept(of) { ++kept.refs; }
        held_kept(const held_kept&) = delete;
        held_kept& operator=(const held_kept&) = delete;
        ~held_kept() { release(&kept); }
        kept_payloads& kept;
    } const now(*s.list->core->kept);
    now.kept.serve(*s.list->core, s, where);
}

/// The same for any source; states and the like have a value of their own to serve.
template <class Source>
void serve_current_of(const Source& source, slot* s, std::source_location where) {
    if constexpr (requires { source.serve_current(s, where); }) {
        source.serve_current(s, where);
    } else {
        serve_kept(*s, where);
    }
}

/// A handle that owns a new subscription, which may be null, served what it
/// asked for; it may end meanwhile.
template <class Source>
subscription keep_subscription(const Source& source, slot* s, bool wants_retained, std::source_location where) {
    auto made = access::own<subscription>(s);
    if (s != nullptr && wants_retained) {
        serve_current_of(source, s, where);
    }
    return made;
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
