// SPDX-License-Identifier: MIT
#include <courier/detail/base/nesting.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Behind the text that begins with the quote at `at`.
std::size_t past_quoted(std::string_view text, std::size_t at, text_format format) noexcept {
    const char quote = text[at];
    const auto is_triple = [&](std::size_t i) {
        return i + 2 < text.size() && text[i] == quote && text[i + 1] == quote && text[i + 2] == quote;
    };
    const bool has_lines = format == text_format::as_toml && is_triple(at);
    at += has_lines ? 3 : 1;
    for (; at < text.size(); ++at) {
        if (text[at] == '\\' && quote == '"') {
            ++at;
        } else if (!has_lines && (text[at] == quote || text[at] == '\n')) {
            return at + 1;
        } else if (has_lines && is_triple(at)) {
            return at + 3;
        }
    }
    return at;
}

} // namespace

bool is_too_deep(std::string_view text, text_format format) noexcept {
    const bool is_toml = format == text_format::as_toml;
    std::size_t open = 0;
    std::size_t dots = 0; // since the last sign that no dotted key goes on behind
    for (std::size_t at = 0; at < text.size();) {
        const char sign = text[at];
        if (sign == '"' || (is_toml && sign == '\'')) {
            at = past_quoted(text, at, format);
            continue;
        }
        if (is_toml && sign == '#') {
            while (at < text.size() && text[at] != '\n') {
                ++at;
            }
            continue;
        }
        if (sign == '[' || sign == '{') {
            ++open;
        } else if ((sign == ']' || sign == '}') && open != 0) {
            --open;
        }
        if (sign == '.' && is_toml) {
            ++dots;
        } else if (std::string_view("[]{},=\n").find(sign) != std::string_view::npos) {
            dots = 0;
        }
        if (open > deepest_nesting || dots > deepest_nesting) {
            return true;
        }
        ++at;
    }
    return false;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
