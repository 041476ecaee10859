// An outbox without the types of what it holds; compiled once.
#pragma once

#include <courier/detail/base/owned.hpp>
#include <courier/detail/later/addressed_lane.hpp>
#include <courier/detail/later/lane.hpp>
#include <courier/detail/later/plain_lane.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class errand_desk;

struct outbox_core {
    std::uint32_t refs = 1; ///< the outbox, posters, timetables and inboxes
    std::uint32_t thread;
    bool closed = false;
    bool delivering = false;
    bool sweeps = false; ///< looks for lanes of channels that are gone when this round is over
    std::string name;
    std::uint64_t rounds = 0;
    std::uint64_t delivered = 0; ///< payloads, in all
    std::vector<owned<lane_base>> lanes;
    std::vector<lane_base*> ready; ///< something waits, in the order in which it began to
    std::vector<lane_base*> round; ///< what is left of the round under way
    std::size_t next_in_round = 0;
    std::uint32_t walks = 0;                                       ///< through `lanes`, in whose middle none is removed
    std::unordered_map<const channel_core*, lane_base*> by_target; ///< implicit lanes
    lane_base* newest = nullptr;                                   ///< the implicit lane that was used last
    errand_desk* errands = nullptr;                                ///< while open, once needed; owned

    explicit outbox_core(std::string_view outbox_name);

    /// Whether a round is under way, or was left when its budget was spent.
    [[nodiscard]] bool is_in_round() const noexcept { return next_in_round != round.size(); }
};

outbox_core* open_outbox(std::string_view name);
void close_outbox(outbox_core& box) noexcept;
inline void retain(outbox_core& box) noexcept {
    ++box.refs;
}
void release(outbox_core& box) noexcept;

/// The lane that posts without a poster go through, or null.
lane_base* find_implicit(outbox_core& box, const channel_core& target) noexcept;
lane_base& enter_lane(outbox_core& box, owned<lane_base> lane, bool implicit);

void check_thread(const outbox_core& box, const char* what, std::source_location where);

/// An outbox' own lane to a channel.
template <class Lane, class Payload, class Channel>
Lane& lane_for(outbox_core& box, Channel& on, std::source_location where) {
    channel_core& target = *access::core(on);
    if constexpr (checked_build) {
        check_thread(box, "posted to", where);
        check_use(target, "posted to", where);
    }
    lane_base* lane = find_implicit(box, target);
    if (lane == nullptr) {
        lane = &enter_lane(box, make_owned<Lane>(box, target, posting_options<Payload>{}), true);
    }
    lane->where = where;
    return static_cast<Lane&>(*lane);
}

/// One user less; a lane that nobody uses goes when it is empty.
void leave_lane(lane_base& lane) noexcept;
/// The same, with the user's reference to the outbox; not before the lane is
/// no longer busy.
void end_use(lane_base& lane) noexcept;

/// Raises `wrong_thread` for a lane's outbox or its channel. Called in checked builds only.
void check_lane(const lane_base& lane, const char* what, std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
