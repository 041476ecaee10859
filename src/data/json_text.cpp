// SPDX-License-Identifier: MIT
#include "data/json_text.hpp"

#include "data/percent.hpp"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iterator>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string quoted_json(std::string_view plain) {
    return nlohmann::json(plain).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

std::string as_source(std::string_view name) {
    return "\"/" + percent_encoded(name) + "\"";
}

bool is_plain(std::string_view text) noexcept {
    return std::all_of(text.begin(), text.end(), [](char c) { return c >= ' ' && c < 127 && c != '"' && c != '\\'; });
}

void put_time(fmt::memory_buffer& to, std::int64_t ns) {
    const auto seconds = ns / 1'000'000'000;
    const auto rest = ns % 1'000'000'000;
    if (rest == 0) {
        fmt::format_to(std::back_inserter(to), "PT{}S", seconds);
    } else {
        std::string digits = fmt::format("{:09}", rest < 0 ? -rest : rest);
        digits.erase(digits.find_last_not_of('0') + 1);
        fmt::format_to(std::back_inserter(to), "{}PT{}.{}S", ns < 0 ? "-" : "", seconds < 0 ? -seconds : seconds,
                       digits);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
