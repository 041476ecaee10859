// Gives on the last one when no other has come for a while.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/flow/pipeline.hpp>
#include <courier/detail/later/errands.hpp>
#include <courier/timetable.hpp>

#include <cstdint>
#include <optional>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class In, class Next>
class quiet_for_node final : public pipe_node {
public:
    quiet_for_node(pipe_root& root, timetable& time, std::int64_t interval, Next&& next)
        : root_(root), hours_(access::hours(time)), box_(access::box_of(time)), interval_(interval),
          next_(std::move(next)) {}

    void come(const In& value) {
        last_.put(value);
        alarm_.set(
            *hours_, *box_, interval_, [](void* self) { static_cast<quiet_for_node*>(self)->quiet(); }, this);
    }
    [[nodiscard]] bool waits() const noexcept override { return alarm_.is_set(); }

    part_ending part;

private:
    void quiet() {
        if (root_.deaf()) {
            return;
        }
        const pipe_root::busy now(root_);
        const In value = last_.take();
        give_unless_over(next_, value, part);
    }

    pipe_root& root_;
    held<timetable_core> hours_;
    held<outbox_core> box_;
    std::int64_t interval_;
    alarm alarm_;
    latest_value<In> last_;
    Next next_;
};

template <class In, class Next>
struct into_quiet_for {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    quiet_for_node<In, Next>* node;
    template <class From>
    void operator()(const In& value, From*) const {
        node->come(value);
    }
};

template <class Upstream>
struct quieted {
    using output_type = typename Upstream::output_type;
    static constexpr bool single = false;
    Upstream upstream;
    timetable* time;
    std::int64_t interval;

    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        using node_type = quiet_for_node<output_type, Receiver>;
        node_type& node = root.add(new node_type(root, *time, interval, std::move(receiver)));
        connect_part(node, root, [&] { upstream.connect(into_quiet_for<output_type, Receiver>{&node}, root); });
    }
};

struct quiet_for_how : adaptor_base {
    timetable* time;
    std::int64_t interval;

    template <class Upstream>
    auto after(Upstream upstream) const {
        return pipeline<quieted<Upstream>>({std::move(upstream), time, interval});
    }
};

} // namespace detail

/// Gives on a copy of the last one once `interval` has passed in the game time
/// of `clock` without another; it comes in a round of the timetable's outbox.
inline auto quiet_for(timetable& clock, time_span interval) {
    return detail::quiet_for_how{{}, &clock, interval.count()};
}

WIRED_COURIER_NAMESPACE_END
