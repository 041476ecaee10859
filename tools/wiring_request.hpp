// What the commands about wiring have in common.
#pragma once

#include <courier/wiring/catalogue.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace tool {

std::vector<std::filesystem::path> paths_of(const std::vector<std::string>& names);

/// From a file, or the demo's when there is no name. Throws `courier::catalogue_error`.
courier::catalogue catalogue_or_demo(const std::string& file);

} // namespace tool
