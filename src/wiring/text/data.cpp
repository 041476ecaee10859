// SPDX-License-Identifier: MIT
#include "wiring/text/data.hpp"

#include <algorithm>
#include <tuple>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

const data* data::find(std::string_view key) const noexcept {
    for (const keyed_data& one : entries) {
        if (one.key == key) {
            return &one.value;
        }
    }
    return nullptr;
}

data data_store::copy(const data& from) {
    data made = from;
    made.items = items(from.items.size());
    for (std::size_t i = 0; i < from.items.size(); ++i) {
        made.items[i] = copy(from.items[i]);
    }
    made.entries = entries(from.entries.size());
    for (std::size_t i = 0; i < from.entries.size(); ++i) {
        made.entries[i] = from.entries[i];
        made.entries[i].value = copy(from.entries[i].value);
    }
    return made;
}

std::string_view told(data_kind kind) noexcept {
    switch (kind) {
    case data_kind::truth:
        return "true or false";
    case data_kind::integer:
        return "a whole number";
    case data_kind::real:
        return "a number";
    case data_kind::text:
        return "a text";
    case data_kind::list:
        return "a list";
    case data_kind::table:
        return "a table";
    default:
        return "a date or time";
    }
}

std::string wiring_text::line(std::uint32_t number) const {
    if (lines_.empty()) {
        lines_.push_back(0);
        for (std::size_t end = text.find('\n'); end != std::string::npos; end = text.find('\n', end + 1)) {
            lines_.push_back(end + 1);
        }
    }
    if (number == 0 || number > lines_.size()) {
        return {};
    }
    constexpr std::size_t longest = 400; // bytes; a fault quotes it
    const std::size_t from = lines_[number - 1];
    std::size_t size = std::min(text.find('\n', from), text.size()) - from;
    if (size > longest) {
        size = longest;
        while (size != 0 && (static_cast<unsigned char>(text[from + size]) & 0xC0U) == 0x80U) { // a whole character
            --size;
        }
    }
    std::string found = text.substr(from, size);
    if (!found.empty() && found.back() == '\r') {
        found.pop_back();
    }
    return found;
}

void fault_list::add(wiring_code code, place_in at, std::string what, std::string advice) {
    const wiring_text& file = files_[at.file];
    all_.push_back({code, file.name, at.line, at.column, std::move(what), std::move(advice), file.line(at.line)});
}

std::string fault_list::told(place_in at, place_in from) const {
    return "line " + std::to_string(at.line) + (at.file == from.file ? "" : " of " + files_[at.file].name);
}

std::vector<wiring_fault> fault_list::take() {
    std::stable_sort(all_.begin(), all_.end(), [&](const wiring_fault& a, const wiring_fault& b) {
        const auto number_of = [&](const wiring_fault& one) {
            return std::find_if(files_.begin(), files_.end(), [&](const auto& f) { return f.name == one.file; }) -
                   files_.begin();
        };
        return std::tuple(number_of(a), a.line, a.column) < std::tuple(number_of(b), b.line, b.column);
    });
    const auto is_same = [](const wiring_fault& a, const wiring_fault& b) { // told for each cause of a wire
        return a.line == b.line && a.column == b.column && a.file == b.file && a.what == b.what;
    };
    all_.erase(std::unique(all_.begin(), all_.end(), is_same), all_.end());
    return std::move(all_);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
