// Wiring files, with those that they include.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/text/data.hpp"

#include <filesystem>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What was read, whether or not it was right.
struct wiring_document {
    std::vector<wiring_text> files;
    std::vector<data> parsed; ///< as many
    data_store store;         ///< of what was parsed
    std::vector<std::filesystem::path> paths;
    std::vector<std::filesystem::file_time_type> times;
};

/// Each file once, in the order in which they are named; those that one includes come
/// before it.
void read_files(const std::vector<std::filesystem::path>& files, wiring_document& into, fault_list& faults);

/// The same for one file, with `text` in place of its contents. Unless `inside` is empty, only
/// files in one of those folders are opened, once links are resolved.
void read_edited(const std::filesystem::path& file, std::string_view text,
                 const std::vector<std::filesystem::path>& inside, wiring_document& into, fault_list& faults);

/// Whether a file, which need not be there, lies in one of `folders` once links are resolved.
[[nodiscard]] bool lies_in(const std::filesystem::path& file, const std::vector<std::filesystem::path>& folders);

/// One text, which includes nothing.
void read_text(std::string_view name, std::string_view text, wiring_document& into, fault_list& faults);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
