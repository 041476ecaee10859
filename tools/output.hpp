// Where the tool writes to, and what it says when that cannot be done.
#pragma once

#include <stdexcept>
#include <string>

namespace tool {

/// Standard output could not be written to.
class output_error : public std::runtime_error {
public:
    using std::runtime_error::runtime_error;
};

/// Descriptors 0, 1 and 2 that were closed become /dev/null, opened so that
/// standard output cannot be written to; else the next file that is opened
/// would get what is meant for them.
void hold_standard_streams() noexcept;

/// Writes out what has been printed; throws `output_error` when that fails.
void flush_output();

/// Says something on standard error; where that cannot be written to, nothing.
void say(const std::string& text) noexcept;

/// Refuses to write into the file that is read from.
void check_not_the_recording(const std::string& recording, const std::string& option, const std::string& to);

} // namespace tool
