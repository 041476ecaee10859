// One call per frame for everything that waits.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/first_failure.hpp>
#include <courier/detail/owned.hpp>
#include <courier/inbox.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {

/// What one frame brought for one channel.
struct frame_line {
    std::string_view channel; ///< its name; good as long as the channel
    std::size_t delivered;    ///< payloads in this frame
    std::size_t waiting;      ///< left for the next one
    std::size_t refused;      ///< in this frame: not taken, or dropped
};

/// What one frame did. Good until the next.
struct frame_report {
    std::uint64_t frame = 0; ///< its number, from 1 on
    std::size_t arrived = 0; ///< from other threads
    std::size_t refused = 0; ///< by inboxes, since the frame before
    std::size_t due = 0;     ///< from timetables
    std::size_t delivered = 0;
    std::size_t waiting = 0;          ///< left for the next frame
    std::vector<frame_line> channels; ///< those that anything happened on, the busiest first
};

/// Carries out, once a frame, what a main loop would do by hand: takes in what
/// other threads sent, lets time pass, and delivers the outboxes, one stage of
/// the frame after the other.
///
///     courier::frame_driver frame;
///     frame.take_in(arrivals).advance(hours).deliver(after_physics).deliver(before_drawing);
///     while (running) {
///         const courier::frame_report& report = frame.run(16ms);
///         ...
///     }
///
/// Not a loop of its own: the caller says when, and how much time has passed.
/// What is posted while a frame delivers waits for the next one, but for
/// outboxes that come later in it. A handler that throws keeps nothing from
/// being done; the first exception is thrown at the end.
///
/// An outbox is for one frame driver: its counts are of what happened since the
/// report before. Everything it was given must outlive it, or be left out first (`leave()`).
/// Belongs to their thread. Can be neither copied nor moved.
class frame_driver {
public:
    frame_driver() = default;
    frame_driver(const frame_driver&) = delete;
    frame_driver& operator=(const frame_driver&) = delete;

    /// Takes part in every frame from now on: inboxes first, then timetables,
    /// then outboxes, each kind in the order in which it was given.
    ///
    /// `most` is how much of it one frame does. An inbox whose outbox has not
    /// finished a round within its budget is not taken in until it has, so that
    /// what waits for a slow stage stays within the inbox' limit.
    frame_driver& take_in(inbox& from, budget most = {});
    frame_driver& advance(timetable& hours);
    frame_driver& deliver(outbox& box, budget most = {});

    /// No longer takes part.
    void leave(const inbox& gone) noexcept;
    void leave(const timetable& gone) noexcept;
    void leave(const outbox& gone) noexcept;

    /// One frame of so much game time. The report is made anew each time, in
    /// the same memory. Does nothing when a handler calls it that it runs itself.
    const frame_report& run(game_time step);

    /// What the newest frame did.
    [[nodiscard]] const frame_report& report() const noexcept { return report_; }

private:
    struct source {
        inbox* from; ///< null: left out in the middle of a frame
        budget most;
        std::uint64_t refused; ///< as of the newest frame's report
    };
    struct stage {
        outbox* box; ///< null: left out in the middle of a frame
        budget most;
    };
    void take_in_sources(detail::first_failure& failed);
    void deliver_stages(detail::first_failure& failed);
    void count_channels();

    std::vector<detail::owned<source>> sources_;
    std::vector<timetable*> timetables_;
    std::vector<detail::owned<stage>> stages_; // neither moves what is in use when a handler adds some
    frame_report report_;
    game_time elapsed_{}; ///< for ledgers, should there be no timetable
    bool running_ = false;
};

} // namespace courier::inline WIRED_COURIER_ABI
