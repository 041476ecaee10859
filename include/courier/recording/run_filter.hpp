// A part of a run.
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>

#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// What is to be looked at; what is empty holds for all.
struct run_filter {
    std::string channel;
    std::string party;   ///< who made it or heard it
    std::string address; ///< for whom it was
    std::uint32_t first_frame = 0;
    std::uint32_t last_frame = UINT32_MAX; ///< this one included

    [[nodiscard]] bool matches(const run& of, const recorded_event& event) const;
};

/// Whether a subscriber of that name was served the event, or its turn came.
[[nodiscard]] bool concerns(const run& of, const recorded_event& event, const std::string& party);

/// Throws `std::invalid_argument` with the nearest name there is when the
/// filter names a channel or party that the run does not have.
void check_names(const run& of, const run_filter& filter);

WIRED_COURIER_NAMESPACE_END
