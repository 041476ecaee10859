// SPDX-License-Identifier: MIT
#include "ferry/crossing_id.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <random>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t run_digits = 16;

bool is_hexadecimal(std::string_view text) noexcept {
    return std::all_of(text.begin(), text.end(),
                       [](char c) { return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f'); });
}

/// The next part up to `end`, as a number; `text` goes on behind it.
template <class Number>
bool take_number(std::string_view& text, Number& into) {
    const auto [past, error] = std::from_chars(text.data(), text.data() + text.size(), into);
    const auto read = static_cast<std::size_t>(past - text.data());
    if (error != std::errc{} || (read < text.size() && text[read] != '-')) {
        return false;
    }
    text.remove_prefix(std::min(read + 1, text.size()));
    return true;
}

std::uint64_t hexadecimal(std::string_view text) {
    std::uint64_t number = 0;
    std::from_chars(text.data(), text.data() + text.size(), number, 16);
    return number;
}

// Of Sebastiano Vigna's SplitMix64: every bit of the result depends on every bit of `from`.
std::uint64_t scattered(std::uint64_t from) noexcept {
    from += 0x9e3779b97f4a7c15;
    from = (from ^ (from >> 30)) * 0xbf58476d1ce4e5b9;
    from = (from ^ (from >> 27)) * 0x94d049bb133111eb;
    return from ^ (from >> 31);
}

} // namespace

std::string crossing_id::text() const {
    return fmt::format("{}-{}{}-{}-{}", run, is_gapless ? 'n' : 'g', route, number, event);
}

std::optional<crossing_id> read_crossing_id(std::string_view text) {
    crossing_id made;
    if (text.size() < run_digits + 8 - 1 || text.size() > 96 || text[run_digits] != '-') {
        return std::nullopt;
    }
    made.run = text.substr(0, run_digits);
    const char kind = text[run_digits + 1];
    made.is_gapless = kind == 'n';
    std::string_view rest = text.substr(run_digits + 2);
    if (!is_hexadecimal(made.run) || (kind != 'n' && kind != 'g') || !take_number(rest, made.route) ||
        !take_number(rest, made.number) || !take_number(rest, made.event) || !rest.empty() || made.number == 0) {
        return std::nullopt;
    }
    return made;
}

std::string traceparent_of(trace_id trace, std::uint64_t run, std::uint64_t event) {
    const std::uint64_t own = scattered(run ^ scattered(event));
    return fmt::format("00-{:016x}{:016x}-{:016x}-01", trace.high, trace.low, own != 0 ? own : 1);
}

trace_id trace_in(std::string_view traceparent) {
    // version "-" trace "-" parent "-" flags; versions above 00 may have more
    const bool has_form = traceparent.size() >= 55 && traceparent[2] == '-' && traceparent[35] == '-' &&
                          traceparent[52] == '-' && is_hexadecimal(traceparent.substr(0, 2)) &&
                          is_hexadecimal(traceparent.substr(3, 32)) && is_hexadecimal(traceparent.substr(36, 16)) &&
                          traceparent.substr(0, 2) != "ff" &&
                          (traceparent.size() == 55 || (traceparent.substr(0, 2) != "00" && traceparent[55] == '-'));
    if (!has_form) {
        return {};
    }
    return {hexadecimal(traceparent.substr(3, 16)), hexadecimal(traceparent.substr(19, 16))};
}

std::uint64_t new_run() {
    std::random_device chance;
    std::uint64_t made = 0;
    while (made == 0) {
        made = static_cast<std::uint64_t>(chance()) << 32 | chance();
    }
    return made;
}

std::string run_text(std::uint64_t run) {
    return fmt::format("{:016x}", run);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
