// Functions that are run again when something they read has changed.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/forward.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/place_text.hpp>
#include <courier/detail/delivery/handler.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/subscriber.hpp>

#include <cstdint>
#include <source_location>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// In front of the node, next to the members that every change reads.
template <class Refresher>
struct refresher_function {
    Refresher function;
};

template <class Refresher>
struct refresher_of final : refresher_function<Refresher>, refresher_node {
    explicit refresher_of(Refresher&& given) : refresher_function<Refresher>{std::move(given)}, refresher_node(how) {}

    static void renew_it(reader_node& node) {
        const reading what_is_read(node);
        static_cast<refresher_of&>(static_cast<refresher_node&>(node)).function();
    }
    static std::string describe_it(const reader_node& node) {
        return "refresher at " + detail::place(static_cast<const refresher_node&>(node).self->where);
    }
    static constexpr reader_ops how{&renew_it, &describe_it};
};

/// The argument of `attach()`: the refresher is made in its final place.
template <class Refresher>
struct refresher_request {
    Refresher refresher;
    outbox_core* through;
};

template <class Refresher>
consteval handler_ops make_refresher_ops() {
    handler_ops ops{};
    ops.invoke = [](void*, const void*) {};
    ops.construct = [](void* to, void* from) {
        auto& request = *static_cast<refresher_request<Refresher>*>(from);
        auto* const made = ::new (to) refresher_of<Refresher>(std::move(request.refresher));
        made->through = held(request.through);
    };
    ops.destroy = [](void* state) noexcept { static_cast<refresher_of<Refresher>*>(state)->~refresher_of(); };
    ops.told = [](slot& s) noexcept {
        tell_refresher(*static_cast<refresher_of<Refresher>*>(state_of(s)), s.blocked != 0);
    };
    ops.module = &module_tag;
    ops.size = sizeof(refresher_of<Refresher>);
    ops.align = alignof(refresher_of<Refresher>);
    return ops;
}

template <class Refresher>
WIRED_COURIER_HIDDEN inline constexpr handler_ops refresher_ops = make_refresher_ops<Refresher>();

/// A refresher with its subscription, not yet run; null when that was refused.
template <class Refresher>
    requires std::is_invocable_v<std::decay_t<Refresher>&>
refresher_node* attach_refresher(Refresher&& refresher, outbox_core* through, std::source_location where,
                                 ownership whose) {
    using own = std::decay_t<Refresher>;
    refresher_request<own> request{std::forward<Refresher>(refresher), through};
    const graph_kept meanwhile;
    slot* const made = attach(refreshers_core(), {&refresher_ops<own>, &request, ordinary, where, whose});
    if (made == nullptr) {
        return nullptr;
    }
    refresher_of<own>& node = *static_cast<refresher_of<own>*>(state_of(*made));
    unless_done detached([made] { detach(*made); });
    enter_refresher(node, *made);
    detached.done();
    return &node;
}
template <class Wrong>
refresher_node* attach_refresher(Wrong&&, outbox_core*, std::source_location, ownership) {
    static_assert(always_false<Wrong>, "courier: a refresher is called without arguments; it reads its values from "
                                       "states and formulas");
    return nullptr;
}

} // namespace detail

template <class Refresher>
subscription_key subscriber::keep_current(Refresher&& refresher, std::source_location where) {
    const detail::held until_then(party_);
    return begin(detail::attach_refresher(std::forward<Refresher>(refresher), nullptr, where, party_));
}

template <class Refresher>
subscription_key subscriber::keep_current(outbox& through, Refresher&& refresher, std::source_location where) {
    const detail::held until_then(party_);
    const detail::held box(*detail::core_of(through));
    return begin(detail::attach_refresher(std::forward<Refresher>(refresher), detail::core_of(through), where, party_));
}

/// One refresher, for people and reports.
struct refresher_report {
    std::source_location where;          ///< of `keep_current()`
    std::string subscriber;              ///< whose it is
    std::uint64_t runs;                  ///< how often it was run
    std::vector<std::string> depends_on; ///< names of the values that it read last, in that order
    std::string because;                 ///< names of the values that had changed; empty for the first run
    bool paused;
};

/// All refreshers of the calling thread, in the order in which they were made.
[[nodiscard]] std::vector<refresher_report> list_refreshers();

WIRED_COURIER_NAMESPACE_END
