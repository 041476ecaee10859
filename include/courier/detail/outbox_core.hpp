// An outbox without the types of what it holds; compiled once.
#pragma once

#include <courier/detail/lane.hpp>
#include <courier/detail/owned.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

class errand_desk;

struct outbox_core {
    std::uint32_t refs = 1; ///< the outbox, posters, timetables and inboxes
    std::uint32_t thread;
    bool closed = false;
    bool delivering = false;
    std::string name;
    std::uint64_t rounds = 0;
    std::uint64_t delivered = 0; ///< payloads, in all
    std::vector<owned<lane_base>> lanes;
    std::vector<lane_base*> ready; ///< something waits, in the order in which it began to
    std::vector<lane_base*> round; ///< what is left of the round under way
    std::size_t next_in_round = 0;
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

/// One user less; a lane that nobody uses goes when it is empty.
void leave_lane(lane_base& lane) noexcept;

void check_thread(const outbox_core& box, const char* what, std::source_location where);

} // namespace courier::inline WIRED_COURIER_ABI::detail
