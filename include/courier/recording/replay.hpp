// A recorded run once more: what came from outside is fed in at the same game
// times, and what follows is compared.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_inlet.hpp>
#include <courier/config.hpp>
#include <courier/data/detail/kept_texts.hpp>
#include <courier/data/detail/payload_door.hpp>
#include <courier/data/detail/read_address.hpp>
#include <courier/data/json_fault.hpp>
#include <courier/fields.hpp>
#include <courier/hub.hpp>
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recording_fault.hpp>
#include <courier/recording/run.hpp>

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// What came of a replay.
struct replay_outcome {
    std::uint64_t same = 0; ///< events that came again
    std::uint64_t of = 0;   ///< that were recorded
    std::string difference; ///< the first one; empty: there is none
};

/// The recording that `courier replay FILE --with PROGRAM` wants this program
/// to run once more; nothing when it was started in another way. What comes of
/// it goes back to the command from `replay::finish()`.
[[nodiscard]] std::optional<std::filesystem::path> replay_wanted();

/// How strictly replay reads an event's payload. One that came from outside is fed again, so it
/// has to fit its type; any other is published again, and compared field by field as far as it
/// was recorded. `courier changes` goes by the same rules.
[[nodiscard]] json_rules rules_of_replay(const recorded_event& event) noexcept;

/// Feeds a recording's outside events into a fresh run, and compares.
///
///     courier::ledger night{"gannet reef"};
///     courier::replay again{night, "night.jsonl"};
///     night.attach_everything();
///     again.feed("weather.flashed", flashed_sender);   // instead of the weather's thread
///     while (!again.over()) {
///         again.step();                                // where the game takes in its input
///         ... one frame ...
///     }
///     if (again.difference()) ...
///
/// The ledger must be made and attached at the same place as in the recorded
/// run, and the game must not read its own input meanwhile. Payloads that are
/// fed must have named fields (see courier/fields.hpp) and a default
/// constructor. Belongs to the ledger's thread; takes the place of a recorder.
class replay {
public:
    /// Throws `recording_error` when the file is not a whole recording.
    replay(ledger& of, const std::filesystem::path& file);
    /// Replays a run that has been read already.
    replay(ledger& of, run recorded);
    replay(const replay&) = delete;
    replay& operator=(const replay&) = delete;
    ~replay();

    /// What the recording says of the run, such as its seed.
    [[nodiscard]] const run& recorded() const noexcept;

    /// What came from outside on that channel is sent through `into` from now on.
    template <class Payload>
    void feed(std::string_view channel, inlet<Payload> into) {
        add(channel, [into = std::move(into)](const source& from) {
            Payload payload{};
            from.read(detail::fields_of<Payload>(), &payload);
            into.send(std::move(payload));
        });
    }
    /// Payloads that another thread sent, to addresses.
    template <class Payload, class Address>
    void feed(std::string_view channel, addressed_inlet<Payload, Address> into) {
        add(channel, [into = std::move(into)](const source& from) {
            Payload payload{};
            from.read(detail::fields_of<Payload>(), &payload);
            if (Address to{}; !from.address().empty() && detail::read_address(from.address(), to)) {
                into.send_to(to, std::move(payload));
            } else {
                into.send(std::move(payload));
            }
        });
    }
    /// Feeds the events published there while `from_outside` held; it
    /// may end first.
    template <class Payload>
    void feed(channel<Payload>& into, std::source_location where = std::source_location::current()) {
        add(detail::door_to(into, {}), where);
    }
    /// Likewise, each for the address that it was for.
    template <class Payload, class Address>
    void feed(addressed_channel<Payload, Address>& into, std::source_location where = std::source_location::current()) {
        add(detail::door_to(into, {}), where);
    }
    /// Likewise, all channels of a hub and of the hubs below it, now and later, that nothing else
    /// feeds. The hub may end first.
    void feed(hub& all, std::source_location where = std::source_location::current());

    /// Feeds what came from outside in the frame that goes on. Throws
    /// `recording_error` when nobody feeds one of these channels, or a payload
    /// cannot be read back.
    void step();

    /// Whether the recording has come to its end, or a difference was found.
    [[nodiscard]] bool over() const noexcept;

    /// Compares the rest, and reports to `courier replay`, should that have
    /// started the program; call it when the run is over.
    void finish();

    /// Events that were the same, so far.
    [[nodiscard]] std::uint64_t same() const noexcept;

    /// The first difference, with both sides, for people.
    [[nodiscard]] const std::optional<std::string>& difference() const noexcept;

private:
    /// A recorded payload on its way back.
    class source {
    public:
        source(const run& of, const recorded_event& event, detail::kept_texts& texts)
            : run_(of), event_(event), texts_(texts) {}
        void read(const detail::field_table* fields, void* payload) const;
        [[nodiscard]] std::string_view address() const noexcept { return run_.texts[event_.to]; }

    private:
        const run& run_;
        const recorded_event& event_;
        detail::kept_texts& texts_;
    };
    class implementation;

    void add(std::string_view channel, std::function<void(const source&)> feeder);
    void add(std::shared_ptr<const detail::payload_door> door, std::source_location where);

    std::unique_ptr<implementation> all_;
};

WIRED_COURIER_NAMESPACE_END
