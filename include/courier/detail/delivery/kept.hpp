// What a channel keeps for late joiners.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/delivery/latest_value.hpp>
#include <courier/subscription.hpp>

#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A subscription that what is copied for it may end, with its channel.
class served_late {
public:
    explicit served_late(slot& s) noexcept : slot_(s), core_(*s.list->core), born_(s.born) {}
    served_late(const served_late&) = delete;
    served_late& operator=(const served_late&) = delete;
    ~served_late() = default;
    [[nodiscard]] bool is_there() const noexcept {
        return !core_->closed && slot_.born == born_ && (slot_.blocked & (block_ended | block_free)) == 0;
    }

private:
    slot& slot_;
    held<channel_core> core_;
    std::uint64_t born_;
};

template <class Payload>
class kept_one final : public kept_payloads {
public:
    kept_one() noexcept { this->is_quiet = detail::is_quiet<Payload>; }
    void keep(const void* payload) override { newest_.put(*static_cast<const Payload*>(payload)); }
    void keep_at(const void*, const void*) override {}
    void serve(channel_core& core, slot& s, std::source_location where) override {
        if (newest_) {
            const served_late late(s);
            const Payload own = newest_.copy(); // the handler may publish a newer one
            const void* const payload = &own;
            if (late.is_there()) {
                deliver_to_one(core, s, &payload, 1, where);
            }
        }
    }
    [[nodiscard]] const void* latest() const noexcept override { return newest_ ? &*newest_ : nullptr; }

private:
    latest_value<Payload> newest_;
};

/// Serves what its channel keeps to a new subscription.
inline void serve_kept(slot& s, std::source_location where) {
    if (const held<kept_payloads> now = s.list->core->kept; now) { // which may be given up meanwhile
        now->serve(*s.list->core, s, where);
    }
}

/// The same for any source; states and the like have a value of their own to serve.
template <class Source>
void serve_current_of(const Source& source, slot* s, std::source_location where) {
    if (!access::serve_current(source, s, where)) {
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

} // namespace detail
WIRED_COURIER_NAMESPACE_END
