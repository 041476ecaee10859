// Gives on the last one when no other has come for a while.
#pragma once

#include <courier/detail/errands.hpp>
#include <courier/detail/pipeline.hpp>
#include <courier/timetable.hpp>

#include <cstdint>
#include <optional>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class In, class Next>
class quiet_for_node final : public pipe_node {
public:
    quiet_for_node(pipe_root& root, timetable& hours, std::int64_t interval, Next&& next)
        : root_(root), hours_(access::hours(hours)), box_(access::box_of(hours)), interval_(interval),
          next_(std::move(next)) {
        retain(hours_);
        retain(box_);
    }
    ~quiet_for_node() override {
        alarm_.cancel();
        release(hours_);
        release(box_);
    }

    void come(const In& value) {
        put(last_, value);
        alarm_.set(
            hours_, box_, interval_, [](void* self) { static_cast<quiet_for_node*>(self)->quiet(); }, this);
    }
    [[nodiscard]] bool waits() const noexcept override { return alarm_.is_set(); }

    part_ending part;

private:
    void quiet() {
        if (root_.deaf()) {
            return;
        }
        const pipe_root::busy now(root_);
        const In value = std::move(*last_);
        last_.reset();
        next_(value, &part);
    }

    pipe_root& root_;
    timetable_core& hours_;
    outbox_core& box_;
    std::int64_t interval_;
    alarm alarm_;
    std::optional<In> last_;
    Next next_;
};

template <class In, class Next>
struct into_quiet_for {
    static constexpr bool ends = false;
    quiet_for_node<In, Next>* node;
    void operator()(const In& value, ending*) const { node->come(value); }
};

template <class Upstream>
struct quieted {
    using output_type = typename Upstream::output_type;
    static constexpr bool single = false;
    Upstream upstream;
    timetable* hours;
    std::int64_t interval;

    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        using node_type = quiet_for_node<output_type, Receiver>;
        node_type& node = root.add(new node_type(root, *hours, interval, std::move(receiver)));
        connect_part(node, root, [&] { upstream.connect(into_quiet_for<output_type, Receiver>{&node}, root); });
    }
};

struct quiet_for_how : adaptor_base {
    timetable* hours;
    std::int64_t interval;

    template <class Upstream>
    auto after(Upstream upstream) const {
        return pipeline<quieted<Upstream>>({std::move(upstream), hours, interval});
    }
};

} // namespace detail

/// Gives on a copy of the last one once `interval` has passed in the game time
/// of `hours` without another; it comes in a round of the timetable's outbox.
inline auto quiet_for(timetable& hours, game_time interval) {
    return detail::quiet_for_how{{}, &hours, interval.count()};
}

} // namespace courier::inline WIRED_COURIER_ABI
