// A part of a run.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>

#include <cstdint>
#include <string>
#include <unordered_set>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// The part of a run to look at; an empty member stands for all.
struct run_filter {
    std::string channel = {};
    std::string party = {};   ///< who made it or heard it
    std::string address = {}; ///< for whom it was
    std::uint32_t first_frame = 0;
    std::uint32_t last_frame = UINT32_MAX; ///< this one included
    std::string phase = {};                ///< "watch: storm": the frames in which that set was in that phase
    bool by_part = false;                  ///< channel and party are parts of names, in any case

    /// Whether it leaves anything out.
    [[nodiscard]] bool narrow() const noexcept {
        return !channel.empty() || !party.empty() || !address.empty() || !phase.empty() || first_frame != 0 ||
               last_frame != UINT32_MAX;
    }
};

/// Which events pass a filter, with all names looked up once. The run must outlive it, and not
/// change.
class run_selection {
public:
    /// Looks all names up. `of` must outlive it.
    run_selection(const run& of, const run_filter& filter);
    /// Whether the event passes.
    [[nodiscard]] bool operator()(const recorded_event& event) const;
    /// Whether events of that channel can pass.
    [[nodiscard]] bool has_channel(std::uint32_t channel) const { return channels_.empty() || channels_[channel]; }
    /// `text`: its number in the run's texts.
    [[nodiscard]] bool has_party(std::uint32_t text) const { return makers_.empty() || makers_[text]; }

private:
    [[nodiscard]] bool is_in_phase(std::uint32_t frame) const;
    [[nodiscard]] bool is_heard(const recorded_event& event) const;

    const run* of_;
    std::uint32_t first_frame_;
    std::uint32_t last_frame_;
    std::vector<bool> channels_; ///< empty: all
    std::vector<bool> makers_;   ///< by text; empty: all
    std::unordered_set<std::uint32_t> hearers_;
    std::uint32_t address_ = 0; ///< text; 0: any
    bool in_phase_ = false;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> spans_; ///< frames of the phase, the last one included
};

/// Whether a subscriber of that name was served the event, or its turn came.
[[nodiscard]] bool concerns(const run& of, const recorded_event& event, const std::string& party);

/// Throws `recording_error` (`recording_code::unknown_name`) with the nearest name when the
/// filter names a channel or party that the run does not have.
void check_names(const run& of, const run_filter& filter);

WIRED_COURIER_NAMESPACE_END
