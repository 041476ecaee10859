// Writes every event of a ledger to a file, or to anything else that takes lines.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/recording_fault.hpp>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Takes whole lines of a recording, each with its end, on the recorder's thread. What it throws
/// ends the recording: see `recorder::failure()`.
using line_sink = std::function<void(std::string_view lines)>;

/// What happens when the disk is slower than the game.
enum class when_behind : std::uint8_t {
    wait, ///< the game waits: nothing is lost
    skip, ///< events are left out and counted; the recording says where and how many
};

/// How a recorder records, written as `{.when_behind = when_behind::skip}`.
struct recorder_options {
    courier::when_behind when_behind = courier::when_behind::wait;
    /// Bytes that may wait to be written, about.
    std::size_t max_waiting = std::size_t{8} << 20;
    /// What the recording says of the run that it is of, such as its seed.
    std::map<std::string, std::string> facts = {};
    /// Which channels are recorded, by their names; empty: all. Asked once for
    /// each name. Events on the others are not causes of anything then.
    std::function<bool(std::string_view channel)> only = {};
    /// What there is apart from events (systems, phases, what waits) is recorded each time so
    /// many frames are over, and at the end.
    std::uint64_t state_every = 256;
};

/// Records a ledger from now on, until it or the ledger ends: channels,
/// subscriptions, every event with its payload's fields (see
/// courier/fields.hpp), its cause and its deliveries, and frames.
///
///     courier::ledger night{"gannet reef"};
///     courier::recorder to_file{night, "night.jsonl"};
///     night.attach_everything();
///
/// The file holds one CloudEvents 1.0 event in JSON per line; docs/recordings.md
/// says which there are. It is written by a thread of its own, from a bounded
/// queue, piece by piece: a crash loses lines not yet written, the events
/// under way included, and leaves whole lines and at most one cut line.
///
/// Belongs to the ledger's thread. Any number of recorders may record a ledger,
/// each from its beginning to its end. Throws `recording_error` when the file cannot be
/// made, or another recorder writes it.
class recorder {
public:
    /// Records into a file, which is written over. Throws `recording_error` when it cannot be written, or has
    /// a recorder.
    recorder(ledger& of, const std::filesystem::path& file, recorder_options options = {});
    /// Records into anything else that takes lines: a socket, memory, a window.
    recorder(ledger& of, line_sink to, recorder_options options = {});
    recorder(const recorder&) = delete;
    recorder& operator=(const recorder&) = delete;
    /// Writes the rest, and a line that says that the recording is whole.
    ~recorder();

    /// Events recorded, and left out, so far.
    [[nodiscard]] std::uint64_t recorded() const noexcept;
    /// Events that were left out because too much waited.
    [[nodiscard]] std::uint64_t skipped() const noexcept;

    /// Hands what waits to the writing thread, as the end of a frame does, and does not wait.
    void hand_over();

    /// Hands what waits to the writing thread and returns when it is written.
    void flush();

    /// The ledger has ended, and with it the recording.
    [[nodiscard]] bool over() const noexcept;

    /// What went wrong while writing; empty when nothing did. Recording stops
    /// then, and the game goes on.
    [[nodiscard]] std::string failure() const;

private:
    class implementation;
    std::unique_ptr<implementation> all_;
};

WIRED_COURIER_NAMESPACE_END
