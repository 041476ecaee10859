// What is wrong with a recording.
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <stdexcept>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class recording_fault : std::uint8_t {
    cannot_open,   ///< the file cannot be read or made
    empty,         ///< there is nothing in it
    foreign,       ///< it holds something else
    wrong_version, ///< it is of a format that this version does not read
    line_too_long, ///< a line is longer than any event is
    not_utf8,      ///< a line is not UTF-8
    bad_line,      ///< a line is not JSON, or lacks something
    cannot_replay, ///< it cannot be fed into this program
};

[[nodiscard]] std::string_view id_of(recording_fault code) noexcept;

/// `what()` says what, where (file and line), and what to do.
class recording_error : public std::runtime_error {
public:
    recording_error(recording_fault code, const std::string& message) : std::runtime_error(message), code_(code) {}
    [[nodiscard]] recording_fault code() const noexcept { return code_; }

private:
    recording_fault code_;
};

WIRED_COURIER_NAMESPACE_END
