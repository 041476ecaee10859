// Keeps the books of channels: every event, its listeners and its cause.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/books.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/game_time.hpp>
#include <courier/hub.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// An event's number: 1, 2, 3 … in the order in which events of one ledger
/// came. 0 is none. A payload that is posted is an event, and is another one,
/// caused by that, when it is delivered.
using event_id = std::uint64_t;

/// How a ledger keeps its books, written as `{.order_seed = 7}`.
struct ledger_options {
    /// Handlers are timed in one publish out of this many on each channel; those that
    /// take more than a microsecond, each time from then on. 0: none is timed,
    /// so that no clock is read.
    std::uint32_t time_every = 256;

    /// Events that `chain()` can look back to, rounded up to a power of two; 48
    /// bytes each.
    std::size_t chain_capacity = 4096;

    /// Not 0: handlers of one stage are served in an order that this seed and
    /// the event decide, to find those that depend on it by accident.
    std::uint64_t order_seed = 0;
};

/// An event, as a link of a chain of causes.
struct chain_link {
    event_id id = 0;
    std::string channel;
    std::string publisher;  ///< its name, if it has one
    code_line where;        ///< of the publish, or the post
    std::string in_handler; ///< the subscriber whose handler made it; empty for the first cause
    code_line handler;      ///< where that was subscribed
    std::uint64_t frame = 0;
    bool is_post = false; ///< a payload was posted; it is delivered by another event
};

/// Attached to channels, counts payloads published on them, delivered, refused
/// and unheard, line of code by line of code; knows each live subscription, and
/// which event caused which. `read()` is a copy of all of it; `audit()`
/// (courier/audit.hpp) finds the mistakes in it.
///
///     courier::ledger night{"the night"};
///     night.attach_everything();          // or a hub, or single channels
///     ...
///     for (const auto& link : night.chain(id)) ...
///
/// One ledger at a time keeps the books of a thread, and belongs to it; a second one
/// is refused (`fault_code::second_ledger`) and notes nothing. Channels without
/// a ledger pay nothing; one with
/// a ledger takes six to seven times as long to publish to one handler, and less
/// than twice as long from eight handlers up (docs/performance.md). It may be made and destroyed by a handler.
/// Can be neither copied nor moved.
///
/// Built with `WIRED_COURIER_LEDGER=0`, ledgers can be made but note nothing.
class ledger {
public:
    /// `name` is for messages and reports and is copied.
    explicit ledger(std::string_view name = {}, const ledger_options& options = {},
                    std::source_location where = std::source_location::current());
    ledger(const ledger&) = delete;
    ledger& operator=(const ledger&) = delete;
    /// Detaches it from everything.
    ~ledger();

    /// From now on, everything about one channel, query, state or formula.
    template <class Source>
        requires(!std::is_base_of_v<hub, Source>)
    void attach(const Source& source) {
        detail::access::open(source); // a state makes its channel with its first subscriber
        attach_core(*detail::access::core(source));
    }

    /// All channels and queries of a hub, and of those below it, also those
    /// that they make later.
    void attach(hub& to);

    /// All channels of this thread, and those that it makes later.
    void attach_everything();

    /// Nothing about one channel, query, state or formula any more; its
    /// counts stay. To be called before another thread adopts it.
    template <class Source>
    void detach(const Source& source) {
        detach_core(*detail::access::core(source));
    }

    /// A frame is over. Called by a `frame_driver` at the end of `run()`;
    /// programs without one call it themselves, with the game's time.
    void end_frame(game_time now = {});

    /// Serves handlers of one stage in an order that `seed` decides; 0 for
    /// their own order again.
    void shuffle_order(std::uint64_t seed) noexcept;

    /// A copy of everything.
    [[nodiscard]] courier::books read() const;

    /// What led to an event, from the first cause down to the event itself;
    /// empty when it is not remembered any more.
    [[nodiscard]] std::vector<chain_link> chain(event_id id) const;

    /// The newest event on channels of that name; 0 when there was none.
    [[nodiscard]] event_id latest_on(std::string_view channel) const noexcept;

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept;

    /// The current frame, from 0 on.
    [[nodiscard]] std::uint64_t frame() const noexcept;

    /// The number of the newest subscription; later ones have higher numbers.
    [[nodiscard]] std::uint32_t latest_subscription() const noexcept;

    /// Whether it notes anything.
    [[nodiscard]] bool working() const noexcept;

private:
    friend struct detail::access;

    void attach_core(detail::channel_core& core);
    void detach_core(detail::channel_core& core) noexcept;

    detail::ledger_core* core_;
};

/// The event that is being handled on this thread; 0 for none, or without a
/// ledger.
[[nodiscard]] event_id current_event() noexcept;

WIRED_COURIER_NAMESPACE_END
