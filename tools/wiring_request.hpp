// What the commands about wiring have in common.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/wiring/catalogue.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace tool {

std::vector<std::filesystem::path> paths_of(const std::vector<std::string>& names);

/// "catalogue.json" in the folder of a wiring file; empty when it is not there.
std::string catalogue_beside(const std::string& file);

/// From a file, or the demo's when there is no name. Throws `courier::catalogue_error`.
courier::catalogue catalogue_or_demo(const std::string& file);

} // namespace tool
