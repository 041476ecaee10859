// Faults of recordings.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/coded_fault.hpp>
#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class recording_code : std::uint8_t {
    cannot_open,   ///< the file cannot be read or made
    empty,         ///< there is nothing in it
    foreign,       ///< it holds something else
    wrong_version, ///< it has a format that this version does not read
    line_too_long, ///< a line is longer than any event is
    not_utf8,      ///< a line is not UTF-8
    bad_line,      ///< a line is not JSON, or lacks something
    cannot_replay, ///< it cannot be fed into this program
    unknown_name,  ///< it has no channel, party, address, phase or event of that name
};

WIRED_COURIER_ENUM_AS(recording_code, cannot_open, "courier.recording.cannot-open", empty, "courier.recording.empty",
                      foreign, "courier.recording.foreign", wrong_version, "courier.recording.wrong-version",
                      line_too_long, "courier.recording.line-too-long", not_utf8, "courier.recording.not-utf8",
                      bad_line, "courier.recording.bad-line", cannot_replay, "courier.recording.cannot-replay",
                      unknown_name, "courier.recording.unknown-name")

/// Such as "courier.recording.bad-line".
[[nodiscard]] std::string_view id_of(recording_code code) noexcept;

using recording_fault = coded_fault<recording_code>;

/// Thrown when a recording cannot be written, read or replayed.
using recording_error = coded_error<recording_code>;

WIRED_COURIER_NAMESPACE_END
