// Views that are rerun when something they read has changed.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/forward.hpp>
#include <courier/detail/handler.hpp>
#include <courier/detail/value_core.hpp>
#include <courier/fault.hpp>
#include <courier/subscriber.hpp>

#include <cstdint>
#include <source_location>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {

namespace detail {

/// In front of the node, next to what is looked at for every change.
template <class View>
struct view_function {
    View function;
};

template <class View>
struct view_of final : view_function<View>, view_node {
    explicit view_of(View&& v) : view_function<View>{std::move(v)}, view_node(how) {}

    static void renew_it(reader_node& node) {
        const reading what_is_read(node);
        static_cast<view_of&>(static_cast<view_node&>(node)).function();
    }
    static void nothing(value_node&) {}
    static std::string describe_it(const value_node& node) {
        return "view at " +
               detail::place(static_cast<const view_node&>(static_cast<const reader_node&>(node)).self->where);
    }
    static bool nobody(const value_node&) noexcept { return false; }
    static constexpr value_ops how{&renew_it, &nothing, &nobody, &nothing, &describe_it};
};

/// What is handed to `attach()`: the view is made in its final place.
template <class View>
struct view_request {
    View view;
    outbox_core* through;
};

template <class View>
consteval handler_ops make_view_ops() {
    handler_ops ops{};
    ops.invoke = [](void*, const void*) {};
    ops.construct = [](void* to, void* from) {
        auto& request = *static_cast<view_request<View>*>(from);
        auto* const made = ::new (to) view_of<View>(std::move(request.view));
        made->through = request.through;
    };
    ops.destroy = [](void* state) noexcept { static_cast<view_of<View>*>(state)->~view_of(); };
    ops.told = [](slot& s) noexcept { tell_view(*static_cast<view_of<View>*>(state_of(s)), s.blocked != 0); };
    ops.module = &module_tag;
    ops.size = sizeof(view_of<View>);
    ops.align = alignof(view_of<View>);
    return ops;
}

template <class View>
#if defined(__GNUC__)
__attribute__((visibility("hidden")))
#endif
inline constexpr handler_ops view_ops = make_view_ops<View>();

/// A view with its subscription, not yet run; null when that was refused.
template <class View>
view_node* attach_view(View&& view, outbox_core* through, std::source_location where, party* owner) {
    using own = std::decay_t<View>;
    static_assert(std::is_invocable_v<own&>, "courier: a view is called without arguments; what it shows it reads "
                                             "from states and formulas");
    view_request<own> request{std::forward<View>(view), through};
    open_views();
    slot* const made = attach(views_core(), {&view_ops<own>, &request, ordinary, 0, {}, where, owner});
    if (made == nullptr) {
        return nullptr;
    }
    view_of<own>& node = *static_cast<view_of<own>*>(state_of(*made));
    enter_view(node, *made);
    return &node;
}

} // namespace detail

template <class View>
subscription_key subscriber::keep_current(View&& view, std::source_location where) {
    return begin(detail::attach_view(std::forward<View>(view), nullptr, where, party_));
}

template <class View>
subscription_key subscriber::keep_current(outbox& through, View&& view, std::source_location where) {
    return begin(detail::attach_view(std::forward<View>(view), detail::core_of(through), where, party_));
}

/// One view, for people and reports.
struct view_report {
    std::source_location where;          ///< of `keep_current()`
    std::string subscriber;              ///< whose it is
    std::uint64_t runs;                  ///< how often it was run
    std::vector<std::string> depends_on; ///< what it read the last time, in that order
    std::string because;                 ///< what had changed when it was run last; empty for the first time
    bool paused;
};

/// All views of the calling thread, in the order in which they were made.
[[nodiscard]] std::vector<view_report> list_views();

} // namespace courier::inline WIRED_COURIER_ABI
