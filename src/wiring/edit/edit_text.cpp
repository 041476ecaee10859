// SPDX-License-Identifier: MIT
#include "wiring/edit/edit_text.hpp"

#include "wiring/text/data.hpp"
#include "wiring/text/toml_parser.hpp"

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// Lines of a text, and where characters of them are.
class line_index {
public:
    explicit line_index(std::string_view text) : text_(text) {
        for (std::size_t at = 0; at != std::string_view::npos && at < text.size();) {
            begins_.push_back(at);
            at = text.find('\n', at);
            at += at == std::string_view::npos ? 0 : 1;
        }
    }

    /// Of a line that counts from 1; past the last one, the end.
    [[nodiscard]] std::size_t begin(std::size_t line) const noexcept {
        return line >= 1 && line <= begins_.size() ? begins_[line - 1] : text_.size();
    }
    [[nodiscard]] std::string_view line(std::size_t number) const noexcept {
        return text_.substr(begin(number), begin(number + 1) - begin(number));
    }
    [[nodiscard]] std::size_t count() const noexcept { return begins_.size(); }
    /// Columns count characters, not bytes.
    [[nodiscard]] std::size_t at(const toml::source_position& place) const noexcept {
        std::size_t byte = begin(place.line);
        for (std::uint32_t column = 1; column < place.column && byte < text_.size(); ++column) {
            ++byte;
            while (byte < text_.size() && (static_cast<unsigned char>(text_[byte]) & 0xC0U) == 0x80U) {
                ++byte;
            }
        }
        return byte;
    }
    [[nodiscard]] std::size_t line_of(std::size_t byte) const noexcept {
        return static_cast<std::size_t>(std::upper_bound(begins_.begin(), begins_.end(), byte) - begins_.begin());
    }

private:
    std::string_view text_;
    std::vector<std::size_t> begins_;
};

bool is_comment(std::string_view line) {
    const std::size_t first = line.find_first_not_of(" \t");
    return first != std::string_view::npos && line[first] == '#';
}

bool has_header(const toml::node& value) {
    const toml::table* const table = value.as_table();
    const toml::array* const list = value.as_array();
    return (table != nullptr && !table->is_inline()) ||
           (list != nullptr && !list->empty() && list->get(0)->is_table() && !list->get(0)->as_table()->is_inline());
}

/// Where headers stand: of all tables that are not written within braces.
void add_headers(const toml::node& node, std::vector<std::uint32_t>& lines) {
    if (const toml::table* const table = node.as_table()) {
        if (!table->is_inline()) {
            lines.push_back(table->source().begin.line);
            for (const auto& [key, value] : *table) {
                add_headers(value, lines);
            }
        }
    } else if (const toml::array* const list = node.as_array()) {
        for (const toml::node& one : *list) {
            add_headers(one, lines);
        }
    }
}

class wire_finder {
public:
    wire_finder(const std::string& text, const toml::table& parsed) : lines_(text) {
        add_headers(parsed, headers_);
        std::sort(headers_.begin(), headers_.end());
    }

    wire_in_text find(const toml::table& wire) const {
        wire_in_text made{};
        made.line = wire.source().begin.line;
        made.header = lines_.begin(made.line);
        std::size_t first = made.line;
        while (first > 1 && is_comment(lines_.line(first - 1))) {
            --first;
        }
        std::size_t last = made.line;
        made.keys_past = lines_.begin(made.line + 1);
        for (const auto& [name, value] : wire) {
            key_in_text key = find_key(std::string(name.str()), name.source(), value);
            last = std::max(last, lines_.line_of(key.lines.past - 1));
            if (!key.has_header) {
                made.keys_past = std::max(made.keys_past, key.lines.past);
            }
            made.keys.push_back(std::move(key));
        }
        made.lines = {lines_.begin(first), lines_.begin(last + 1)};
        return made;
    }

private:
    key_in_text find_key(std::string name, const toml::source_region& at, const toml::node& value) const {
        key_in_text made{std::move(name), {}, {}, has_header(value)};
        if (made.has_header) {
            std::vector<std::uint32_t> own;
            add_headers(value, own);
            const auto [low, high] = std::minmax_element(own.begin(), own.end());
            made.lines = {lines_.begin(*low), lines_.begin(last_line_under(*high) + 1)};
            made.value = made.lines;
            return made;
        }
        made.value = {lines_.at(value.source().begin), lines_.at(value.source().end)};
        if (const auto* const truth = value.as_boolean()) { // whose end toml++ 3.3 does not tell
            made.value.past = made.value.first + (truth->get() ? 4 : 5);
        }
        made.lines = {lines_.begin(at.begin.line), lines_.begin(lines_.line_of(made.value.past - 1) + 1)};
        return made;
    }

    /// The last line that says something before the next header.
    [[nodiscard]] std::size_t last_line_under(std::uint32_t header) const {
        const auto next = std::upper_bound(headers_.begin(), headers_.end(), header);
        std::size_t last = next == headers_.end() ? lines_.count() : *next - 1;
        const auto says_nothing = [&](std::size_t line) {
            return lines_.line(line).find_first_not_of(" \t\r\n") == std::string_view::npos ||
                   is_comment(lines_.line(line));
        };
        while (last > header && says_nothing(last)) {
            --last;
        }
        return last;
    }

    line_index lines_;
    std::vector<std::uint32_t> headers_;
};

} // namespace

std::vector<wire_in_text> wires_in(const std::string& file, const std::string& text) {
    std::vector<wiring_text> files{{file, text}};
    fault_list faults(files);
    std::vector<wire_in_text> all;
    const std::shared_ptr<const toml::table> parsed = parse_toml(files.front(), 0, faults);
    if (parsed == nullptr) {
        throw wiring_error(faults.take());
    }
    const wire_finder finder(text, *parsed);
    if (const toml::array* const list = parsed->get_as<toml::array>("wire"); list != nullptr) {
        for (const toml::node& one : *list) {
            if (const toml::table* const wire = one.as_table(); wire != nullptr && !wire->is_inline()) {
                all.push_back(finder.find(*wire));
            }
        }
    }
    return all;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
