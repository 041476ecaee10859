// Pictures, drawn by the programs whose languages they are written in.
// SPDX-License-Identifier: MIT
#pragma once

#include <string>
#include <vector>

namespace tool {

/// A file that goes with this object.
class scratch_file {
public:
    scratch_file();
    scratch_file(const scratch_file&) = delete;
    scratch_file& operator=(const scratch_file&) = delete;
    ~scratch_file();
    [[nodiscard]] const std::string& path() const noexcept { return path_; }

private:
    std::string path_;
};

/// Writes text to a file, or to standard output for "-". Throws
/// `output_error` when that cannot be done.
void write_text(const std::string& file, const std::string& text);

/// Runs `program` with `arguments`, `text` as its standard input, and its
/// output into `file`, or to standard output for "-". Throws `std::runtime_error` when it is
/// not installed (with `package`, which has it) or fails, and `output_error`.
void draw(const std::string& program, const std::vector<std::string>& arguments, const std::string& package,
          const std::string& text, const std::string& file);

} // namespace tool
