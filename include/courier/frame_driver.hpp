// One call per frame for everything that waits.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/inbox.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

class systems; // courier: #include <courier/systems.hpp>

/// What one frame brought for one channel.
struct frame_line {
    std::string_view channel; ///< its name; good as long as the channel
    std::size_t delivered;    ///< payloads in this frame
    std::size_t waiting;      ///< left for the next one
    std::size_t turned_away;  ///< in this frame: not taken, or dropped
};

/// What one frame did. Good until the next.
struct frame_report {
    std::uint64_t frame = 0;     ///< its number, from 1 on
    std::size_t arrived = 0;     ///< from other threads
    std::size_t turned_away = 0; ///< by inboxes, since the frame before
    std::size_t due = 0;         ///< from timetables
    std::size_t delivered = 0;
    std::size_t waiting = 0;          ///< left for the next frame
    std::vector<frame_line> channels; ///< those that anything happened on, the busiest first
};

/// Carries out, once a frame, the steps of a main loop: takes in payloads from
/// other threads, lets time pass, and delivers the outboxes, one part of
/// the frame after the other.
///
///     courier::frame_driver frame;
///     frame.take_in(arrivals).advance(clock).update(reef).deliver(after_physics).deliver(before_drawing);
///     while (running) {
///         const courier::frame_report& report = frame.run(16ms);
///         ...
///     }
///
/// Not a loop of its own: the caller says when, and how much time has passed.
/// A payload posted while a frame delivers waits for the next one, but for
/// outboxes that come later in it. A handler that throws keeps nothing from
/// being done; the first exception is thrown at the end.
///
/// An outbox is for one frame driver: its counts are of what happened since the
/// report before. Inboxes, timetables, systems and outboxes that end take no further
/// part; anything else that it was given must outlive it, or be left out first (`leave()`).
/// Belongs to their thread. Can be neither copied nor moved.
class frame_driver {
public:
    frame_driver();
    frame_driver(const frame_driver&) = delete;
    frame_driver& operator=(const frame_driver&) = delete;
    /// In the middle of a frame that is the end of it: nothing it was given is
    /// touched any more.
    ~frame_driver();

    /// Takes part in every frame from now on: inboxes first, then timetables,
    /// then systems, then outboxes, each kind in the order in which it was given.
    ///
    /// `most` is the part of it that one frame may do. An inbox whose outbox has not
    /// finished a round within its budget is not taken in until it has, so that
    /// payloads for a slow outbox stay within the limit of the inbox.
    frame_driver& take_in(inbox& from, budget most = {});
    /// Takes in anything else that has `take_in()`, which returns how much it took: a
    /// gateway, a ferry, a class of the game's. These come before the inboxes.
    template <class Source>
        requires(!std::same_as<Source, inbox> &&
                 requires(Source& from) {
                     { from.take_in() } -> std::convertible_to<std::size_t>;
                 })
    frame_driver& take_in(Source& from) {
        return add_source(&from, [](void* source) -> std::size_t { return static_cast<Source*>(source)->take_in(); });
    }
    /// Lets its time pass in each frame, after inboxes. Calls return this driver, so that they can be
    /// chained.
    frame_driver& advance(timetable& time);
    /// Updates them in each frame, after timetables.
    frame_driver& update(systems& all);
    /// Delivers a round in each frame, after systems, within `most`.
    frame_driver& deliver(outbox& box, budget most = {});

    /// No longer takes part.
    void leave(const inbox& gone) noexcept;
    /// Takes it out again; does nothing when it is not there. What ends leaves by itself.
    void leave(const timetable& gone) noexcept;
    /// Takes it out again; does nothing when it is not there. What ends leaves by itself.
    void leave(const systems& gone) noexcept;
    /// Takes it out again; does nothing when it is not there. What ends leaves by itself.
    void leave(const outbox& gone) noexcept;
    /// Takes it out again; does nothing when it is not there. What ends leaves by itself.
    template <class Source>
        requires requires(Source& from) { from.take_in(); }
    void leave(const Source& gone) noexcept {
        remove_source(&gone);
    }

    /// One frame of so much game time, such as `16ms` or
    /// `std::chrono::duration<float>(dt)`. The report is rewritten each time, in
    /// the same memory, and is gone with the driver. Does nothing when a handler
    /// calls it that it runs itself.
    const frame_report& run(time_span step);

    /// What the latest frame did.
    [[nodiscard]] const frame_report& report() const noexcept;

private:
    frame_driver& add_source(void* from, std::size_t (*takes)(void*));
    void remove_source(const void* gone) noexcept;

    struct core;
    core* core_; ///< outlives this while it runs a frame
};

WIRED_COURIER_NAMESPACE_END
