// A file that a command writes.
// SPDX-License-Identifier: MIT
#pragma once

#include <cstdio>
#include <string>
#include <string_view>

namespace tool {

/// Is standard output when its name is "-". Functions throw `output_error` when the file
/// cannot be written.
class output_file {
public:
    explicit output_file(std::string name);
    output_file(const output_file&) = delete;
    output_file& operator=(const output_file&) = delete;
    ~output_file();

    [[nodiscard]] bool is_standard_output() const noexcept { return name_ == "-"; }

    void write(std::string_view text);

    /// Call it last: only now is it known whether everything has been written.
    void close();

private:
    [[noreturn]] void fail() const;

    std::string name_;
    std::FILE* file_;
};

} // namespace tool
