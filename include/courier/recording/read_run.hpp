// A recording's file, read as a whole.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/recording/run.hpp>
#include <courier/recording/run_builder.hpp>

#include <filesystem>

WIRED_COURIER_NAMESPACE_BEGIN

/// Reads a whole file. A cut one is read as far as it goes, and says so; other
/// faults are thrown as `recording_error`.
[[nodiscard]] run read_run(const std::filesystem::path& file, const read_options& options = {});

WIRED_COURIER_NAMESPACE_END
