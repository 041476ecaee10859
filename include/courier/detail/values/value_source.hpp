// What can be subscribed to as if it were a channel of its changes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/handler.hpp>
#include <courier/detail/delivery/kept.hpp>

#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// `Own` has `prepare()`, called before anything is subscribed, and
/// `source_name()`. The channel is made when it is first needed.
template <class Payload, class Own>
class value_source : public subscribable<Own, Payload> {
public:
    using payload_type = Payload;

    /// How many are subscribed.
    [[nodiscard]] std::size_t size() const noexcept { return core_->live; }

protected:
    value_source() = default;
    ~value_source() = default;

    [[nodiscard]] bool watched() const noexcept { return core_->live != 0; }

    /// For the ledger: what is told from now on comes from here.
    void note_change(std::source_location where) noexcept {
        if (overseen()) [[unlikely]] {
            changed_ = mark_here(where);
            newest_change = changed_;
        }
    }
    void note_change_of_sources() noexcept {
        if (overseen()) [[unlikely]] {
            changed_ = newest_change;
        }
    }

    void tell(const Payload& what) {
        if (watched()) {
            tell_watching(what);
        }
    }
    /// The same while somebody is known to be subscribed.
    void tell_watching(const Payload& what) {
        if (overseen()) [[unlikely]] {
            tell_overseen(what);
        } else {
            publish(*core_, &what, std::source_location{});
        }
    }
    [[gnu::noinline]] void tell_overseen(const Payload& what) {
        if (changed_.is_set) {
            const caused_by now(origin_of(changed_));
            channel_->publish(what, changed_.where);
        } else {
            channel_->publish(what);
        }
    }
    void serve_one(slot* s, const Payload* what, std::source_location where) const {
        const void* const payload = what;
        deliver_to_one(*access::core(*channel_), *s, &payload, 1, where);
    }

    void serve_several(slot* s, const void* const* payloads, std::size_t count, std::source_location where) const {
        deliver_to_one(*access::core(*channel_), *s, payloads, count, where);
    }

private:
    friend courier::subscriber;
    friend struct access;

    channel_core& open() const {
        const Own& own = static_cast<const Own&>(*this);
        own.prepare(); // from here on whoever subscribes may be told
        if (channel_ == nullptr) {
            channel_ = make_owned<channel<Payload>>(own.source_name());
            core_ = access::core(*channel_);
        }
        return *core_;
    }
    template <class Handler>
    slot* attach(Handler& handler, delivery_options<Payload>& options, std::source_location where,
                 ownership whose) const {
        return attach_handler<Payload>(open(), handler, options, where, whose);
    }
    slot* attach_ops(const handler_ops* ops, void* handler, stage place, std::source_location where,
                     ownership whose) const {
        return detail::attach(open(), {ops, handler, place, where, whose});
    }

    mutable owned<channel<Payload>> channel_;
    mutable channel_core* core_ = &nowhere();
    post_mark changed_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
