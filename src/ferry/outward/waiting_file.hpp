// Lines that wait in a file, so that they outlive the process.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Lines go in at the end and are read from the front; the file gets shorter only when all
/// of it is done with, so that what a process did not get to is there for the next one.
/// Survives the end of the process at any moment, not that of the machine.
class waiting_file {
public:
    /// Takes what is there already. Throws `ferry_error` when it cannot be opened, or
    /// another process has it.
    waiting_file(const std::filesystem::path& path, std::size_t most);
    waiting_file(const waiting_file&) = delete;
    waiting_file& operator=(const waiting_file&) = delete;
    ~waiting_file();

    /// False, and nothing has changed, when there is no room, or the disk is full.
    bool append(std::string_view line);
    /// The next line without its end, or nothing.
    [[nodiscard]] std::optional<std::string> next();
    /// Whether every line was read.
    [[nodiscard]] bool is_read() const noexcept { return read_ == size_; }
    [[nodiscard]] bool is_empty() const noexcept { return size_ == 0; }
    /// What was read is done with. Only when all is.
    void clear();

private:
    bool write_all(std::string_view text, std::uint64_t at);
    void refill();

    const std::size_t most_;
    int file_ = -1;
    std::uint64_t size_ = 0;
    std::uint64_t read_ = 0; ///< how much of it
    std::string ahead_;      ///< from `read_` on
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
