// SPDX-License-Identifier: MIT
#include "wiring_request.hpp"

#include <courier/wiring/catalogue_file.hpp>

#include <night.hpp>

#include <system_error>

namespace tool {

std::vector<std::filesystem::path> paths_of(const std::vector<std::string>& names) {
    return {names.begin(), names.end()};
}

std::string catalogue_beside(const std::string& file) {
    const std::filesystem::path beside = std::filesystem::path(file).parent_path() / "catalogue.json";
    std::error_code ignored;
    return std::filesystem::is_regular_file(beside, ignored) ? beside.string() : std::string();
}

courier::catalogue catalogue_or_demo(const std::string& file) {
    return file.empty() ? reef::night_catalogue() : courier::read_catalogue(file);
}

} // namespace tool
