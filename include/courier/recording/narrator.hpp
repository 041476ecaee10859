// Tells what happens, a line for each event, while the game runs.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/ledger.hpp>

#include <cstddef>
#include <functional>
#include <memory>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// What a narrator leaves out.
struct narrator_options {
    /// Which channels it tells of, by their names; empty: all. Asked once for each name.
    std::function<bool(std::string_view channel)> only = {};
    bool frames = true;    ///< a heading for each frame in which something happens
    std::size_t names = 6; ///< of subscribers in one line; the rest is counted
};

/// Tells of every event when the publish around it is over: who published what with which
/// fields, who heard it, and who did not and why. Events that handlers cause are indented
/// below it, those that an earlier one led to name that one.
///
///     courier::narrator tell;                            // all of this thread, to standard output
///
///     frame 3
///     #17 lookout (lookout.cpp:12): wyrms.sighted {wyrm 3, distance 5} -> lamp, board; paused: horn
///       #18 lamp (lamp.cpp:20): lamp.swept {bearing 90} -> nobody listens
///     #19 keeper (keeper.cpp:8) posts harbour.closed through 'end of frame'
///
/// `to` gets each line without an end, on the ledger's thread, and may end the narrator; events
/// that it causes are not told. What it throws ends the narration, and not the game (`failure()`). At most 4096 lines
/// wait for the end of one publish; further ones come before it. Belongs to the ledger's thread; a program without one
/// pays nothing.
class narrator {
public:
    using line_taker = std::function<void(std::string_view line)>;

    /// With a ledger of its own, attached to everything, which the thread must not have yet
    /// (`fault_code::second_ledger`). `to` empty: a line of standard output.
    explicit narrator(narrator_options options = {}, line_taker to = {});
    /// Of a ledger that there is, from now on until either ends.
    explicit narrator(ledger& of, narrator_options options = {}, line_taker to = {});
    narrator(const narrator&) = delete;
    narrator& operator=(const narrator&) = delete;
    ~narrator();

    /// Why it tells nothing any more; empty when it does.
    [[nodiscard]] std::string failure() const;

private:
    class implementation;
    std::unique_ptr<ledger> own_;
    std::shared_ptr<implementation> all_; ///< stays while its taker runs
};

WIRED_COURIER_NAMESPACE_END
