// SPDX-License-Identifier: MIT
#include "wiring/text/toml_slips.hpp"

#include "data/trimmed.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

bool is_word(char c) noexcept {
    return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '-' || c == '.';
}

/// A line whose texts are blank, so that what is in them is not taken for grammar, and
/// without its comment.
struct masked_line {
    explicit masked_line(std::string_view line) : all(line), code(line) {
        char quote = 0;
        for (std::size_t i = 0; i < code.size(); ++i) {
            const char c = code[i];
            if (quote == 0 && c == '#') {
                code.resize(i);
            } else if (quote == 0 && (c == '"' || c == '\'')) {
                quote = c;
            } else if (quote != 0) {
                quote = c == quote ? '\0' : quote;
                code[i] = c == '"' || c == '\'' ? c : '_';
            }
        }
        is_open = quote != 0;
    }

    [[nodiscard]] std::string_view key() const { return trimmed(std::string_view(code).substr(0, code.find('='))); }
    [[nodiscard]] auto count(char c) const { return std::count(code.begin(), code.end(), c); }

    std::string_view all;
    std::string code;
    bool is_open = false; ///< a text has no end
};

using found = std::optional<toml_slip>;

found curly_quotes(const masked_line& line) {
    for (const std::string_view quote : {"\u201c", "\u201d", "\u2018", "\u2019", "\u00ab", "\u00bb"}) {
        if (line.all.find(quote) != std::string_view::npos) {
            return toml_slip{"these are not the quotation marks of a text", "write straight ones: \"...\""};
        }
    }
    return std::nullopt;
}

found open_text(const masked_line& line) {
    return line.is_open ? found({"a text has no end", "close it with the quotation mark that it began with"})
                        : std::nullopt;
}

found brackets(const masked_line& line) {
    const std::string_view code = trimmed(line.code);
    if (!code.starts_with('[') || code.find('=') != std::string_view::npos) {
        return std::nullopt;
    }
    const std::size_t begin = std::min(code.find_first_not_of('['), code.size());
    const std::size_t end = std::max(code.find_last_not_of(']') + 1, begin);
    const std::string name(trimmed(code.substr(begin, end - begin)));
    if (code.starts_with("[[") && !code.ends_with("]]")) {
        return toml_slip{"a bracket is missing", "write [[" + (name.empty() ? "wire" : name) + "]]"};
    }
    if (name == "wire" || name == "fill") {
        return toml_slip{"each " + name + " begins with two brackets", "write [[" + name + "]]"};
    }
    return toml_slip{"this is not the name of a table", "write [[wire]], [[fill]], [pattern.name] or [set.name]"};
}

found colon(const masked_line& line) {
    const std::size_t at = line.code.find(':');
    return at != std::string::npos && line.code.find('=') == std::string::npos && is_word(line.code[0])
               ? found({"a key and its value stand on both sides of '='",
                        "write " + std::string(trimmed(line.code.substr(0, at))) + " = ..."})
               : std::nullopt;
}

found comment(const masked_line& line) {
    const std::string_view code = trimmed(line.code);
    return code.starts_with("//") || code.starts_with(";") || code.starts_with("/*")
               ? found({"this is not a comment", "begin comments with #"})
               : std::nullopt;
}

/// "count > 3"
found comparison(const masked_line& line) {
    constexpr std::array<std::pair<std::string_view, std::string_view>, 6> signs{
        {{">=", "at_least"}, {"<=", "at_most"}, {"!=", "not"}, {"==", ""}, {">", "more_than"}, {"<", "less_than"}}};
    for (const auto& [sign, key] : signs) {
        const std::size_t at = line.code.find(sign);
        if (at == std::string::npos) {
            continue;
        }
        std::size_t from = at;
        while (from > 0 && line.code[from - 1] == ' ') {
            --from;
        }
        const std::size_t end = from;
        while (from > 0 && is_word(line.code[from - 1])) {
            --from;
        }
        const std::string name = from == end ? "field" : line.code.substr(from, end - from);
        const std::size_t value = line.code.find_first_not_of(' ', at + sign.size());
        const std::size_t past = std::min(line.code.find_first_of(" ,}", value), line.code.size());
        const std::string number = value < past ? std::string(line.all.substr(value, past - value)) : "3";
        return toml_slip{"'" + std::string(sign) + "' cannot stand here",
                         "write " + name + " = " +
                             (key.empty() ? number : "{ " + std::string(key) + " = " + number + " }")};
    }
    return std::nullopt;
}

found open_brace(const masked_line& line) {
    return line.count('{') > line.count('}')
               ? found({"what stands in { } must stand on one line",
                        "write it on one line; a list of actions, [ ... ], may go over several"})
               : std::nullopt;
}

/// A word where a value belongs.
found bare_word(const masked_line& line) {
    for (std::size_t at = line.code.find('='); at != std::string::npos; at = line.code.find('=', at + 1)) {
        const std::size_t from = line.code.find_first_not_of(" [", at + 1);
        if (from == std::string::npos) {
            return toml_slip{"there is no value after '='", "write one, or take the line out"};
        }
        std::size_t end = from;
        while (end < line.code.size() && is_word(line.code[end])) {
            ++end;
        }
        const std::string word = line.code.substr(from, end - from);
        if (word.empty() || std::isalpha(static_cast<unsigned char>(word[0])) == 0 || word == "true" ||
            word == "false" || word == "inf" || word == "nan") {
            continue;
        }
        std::string lower = word;
        std::transform(lower.begin(), lower.end(), lower.begin(),
                       [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
        if (lower == "true" || lower == "yes" || lower == "on") {
            return toml_slip{"'" + word + "' is not a value", "write true"};
        }
        if (lower == "false" || lower == "no" || lower == "off") {
            return toml_slip{"'" + word + "' is not a value", "write false"};
        }
        return toml_slip{"a text needs quotation marks", "write \"" + word + "\""};
    }
    return std::nullopt;
}

found spaced_key(const masked_line& line) {
    const std::string_view key = line.key();
    if (line.code.find('=') == std::string::npos) {
        return key.empty() || key.front() == '{' || key.front() == ']'
                   ? std::nullopt
                   : found({"this line has no '='", "write a key and its value: note = \"...\""});
    }
    return key.find(' ') != std::string_view::npos && key.find_first_of("\"'{[") == std::string_view::npos
               ? found({"a key with a space in it needs quotation marks", "write \"" + std::string(key) + "\" = ..."})
               : std::nullopt;
}

/// A key without quotation marks has the letters of ASCII only.
found foreign_letter(const masked_line& line) {
    const auto is_foreign = [](char c) { return static_cast<unsigned char>(c) > 127; };
    const auto at = std::find_if(line.code.begin(), line.code.end(), is_foreign);
    if (at == line.code.end()) {
        return std::nullopt;
    }
    const auto is_of_word = [&](char c) { return is_foreign(c) || is_word(c); };
    const auto begin = std::find_if_not(std::make_reverse_iterator(at), line.code.rend(), is_of_word).base();
    const std::string word(begin, std::find_if_not(at, line.code.end(), is_of_word));
    return toml_slip{"a word with other letters than A to Z needs quotation marks", "write \"" + word + "\""};
}

/// Between the fields of a table, and between the items of a list.
found commas(const masked_line& line) {
    std::string tight;
    std::copy_if(line.code.begin(), line.code.end(), std::back_inserter(tight), [](char c) { return c != ' '; });
    if (tight.find(",}") != std::string::npos) {
        return toml_slip{"a comma before } has nothing after it", "take it out"};
    }
    return line.count('{') != 0 || line.count('[') != 0
               ? found({"a comma is missing", "put commas between the fields of { } and the items of [ ]"})
               : std::nullopt;
}

} // namespace

toml_slip slip_in(std::string_view text, std::string_view description) {
    const masked_line line(text);
    if (const std::size_t twice = description.find("redefine"); twice != std::string_view::npos) {
        const std::size_t from = description.find('\'', twice);
        const std::size_t end = description.find('\'', from + 1);
        const std::string name(end != std::string_view::npos ? description.substr(from + 1, end - from - 1) : "this");
        return name == "wire" || name == "fill"
                   ? toml_slip{"each " + name + " begins with two brackets", "write [[" + name + "]]"}
                   : toml_slip{"'" + name + "' is here twice", "take one of them out"};
    }
    for (const auto& look : {&curly_quotes, &comment, &open_text, &brackets, &comparison, &open_brace, &colon,
                             &bare_word, &foreign_letter, &spaced_key, &commas}) {
        if (found made = look(line)) {
            return std::move(*made);
        }
    }
    return {"this is not TOML: " + std::string(description), "see https://toml.io/en/v1.0.0"};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
