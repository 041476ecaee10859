// The kinds of findings of an audit.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class finding_code : std::uint8_t {
    growing,         ///< a line of code makes subscriptions that do not end
    outlived,        ///< a subscriber is still there, and all that it listened to is gone
    never_served,    ///< a handler's turn never came, though its channel was published on
    unheard,         ///< a channel is published on, and nobody ever heard
    never_published, ///< a channel is subscribed to, and nobody ever published
    nobody_there,    ///< payloads were for addresses at which nobody was
    handler_twice,   ///< one subscriber has the same handler twice on a channel
    could_be_local,  ///< a hub's channel has one publisher and one subscriber
    every_frame,     ///< a channel is published on in every frame
    over_budget,     ///< a handler takes longer than it may
    circle,          ///< an event came to cause another one on its own channel
    waits_for_ever,  ///< a sequence waits for what does not come
    order_matters,   ///< two handlers of one stage depend on their order
    left_waiting,    ///< payloads wait in an outbox or inbox that is not delivered or taken in
    unexpected,      ///< a tally gets reports of members it does not expect, and nobody listens
    never_came,      ///< wires wait for an object that never had its name; see courier/wiring/wiring_audit.hpp
    always_fails,    ///< a wire whose actions failed each time; the same
    cause_ended,     ///< a wire that waits for a channel or state which has ended; the same
    nothing_seen,    ///< there is nothing to judge: no channel was attached, or nothing was published
    needless_accept, ///< a finding is accepted that there is not, or no longer
    reads_nothing,   ///< a refresher ran and read no state, so that it will never run again
};

WIRED_COURIER_ENUM_AS(finding_code, growing, "courier.audit.growing", outlived, "courier.audit.outlived", never_served,
                      "courier.audit.never-served", unheard, "courier.audit.unheard", never_published,
                      "courier.audit.never-published", nobody_there, "courier.audit.nobody-there", handler_twice,
                      "courier.audit.handler-twice", could_be_local, "courier.audit.could-be-local", every_frame,
                      "courier.audit.every-frame", over_budget, "courier.audit.over-budget", circle,
                      "courier.audit.circle", waits_for_ever, "courier.audit.waits-for-ever", order_matters,
                      "courier.audit.order-matters", left_waiting, "courier.audit.left-waiting", unexpected,
                      "courier.audit.unexpected", never_came, "courier.audit.never-came", always_fails,
                      "courier.audit.always-fails", cause_ended, "courier.audit.cause-ended", nothing_seen,
                      "courier.audit.nothing-seen", needless_accept, "courier.audit.needless-accept", reads_nothing,
                      "courier.audit.reads-nothing")

/// The stable text form, such as "courier.audit.growing".
[[nodiscard]] std::string_view id_of(finding_code code) noexcept;
/// The other way round, with or without "courier.audit."; empty if there is none of that name.
[[nodiscard]] std::optional<finding_code> finding_code_named(std::string_view name) noexcept;
/// All of them, in their order.
[[nodiscard]] std::vector<std::string> finding_code_names();

WIRED_COURIER_NAMESPACE_END
