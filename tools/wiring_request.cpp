#include "wiring_request.hpp"

#include <courier/wiring/catalogue_file.hpp>

#include <night.hpp>

namespace tool {

std::vector<std::filesystem::path> paths_of(const std::vector<std::string>& names) {
    return {names.begin(), names.end()};
}

courier::catalogue catalogue_or_demo(const std::string& file) {
    return file.empty() ? reef::night_catalogue() : courier::read_catalogue(file);
}

} // namespace tool
