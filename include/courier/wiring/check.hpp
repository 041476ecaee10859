// Wiring files checked without the program, as a build server does it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// A name of an object that the catalogue does not have: right if the object comes
/// later, wrong if it is misspelt.
struct awaited_target {
    std::string name;
    std::string file;
    std::uint32_t line = 0;
    std::uint32_t column = 0;
    std::string advice; ///< the nearest name there is, or empty
};

/// The result of a check.
struct wiring_check {
    std::vector<wiring_fault> faults;    ///< empty: the files would be taken
    std::vector<awaited_target> awaited; ///< each name once, where it is first used
    std::size_t files = 0;               ///< with those included
    std::size_t wires = 0;               ///< that are right, with those that patterns make

    /// Whether there is no fault.
    [[nodiscard]] bool clean() const noexcept { return faults.empty(); }
};

/// Checks files as one, with those that they include, as `wiring::load()` does in the
/// program that the catalogue is of. Throws only when memory runs out.
[[nodiscard]] wiring_check check_wiring(const std::vector<std::filesystem::path>& files, const catalogue& has);
/// Checks a text as a file of that name, which includes nothing.
[[nodiscard]] wiring_check check_wiring_text(std::string_view file, std::string_view text, const catalogue& has);

/// A file with another text than is in it, with those that it includes. Unless `inside` is
/// empty, those that do not lie in one of its folders, once links are resolved, are not
/// opened, and told as mistakes.
[[nodiscard]] wiring_check check_wiring_edited(const std::filesystem::path& file, std::string_view text,
                                               const catalogue& has,
                                               const std::vector<std::filesystem::path>& inside = {});

WIRED_COURIER_NAMESPACE_END
