// SPDX-License-Identifier: MIT
#include <courier/wiring/wiring_edit.hpp>

#include "wiring/check/checker.hpp"
#include "wiring/edit/edit_text.hpp"
#include "wiring/text/read_files.hpp"

#include <algorithm>
#include <cstdio>
#include <fstream>
#include <iterator>
#include <stdexcept>
#include <system_error>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using detail::wire_in_text;

namespace fs = std::filesystem;

[[noreturn]] void refuse(const fs::path& file, std::string what, std::string advice) {
    throw wiring_error({{wiring_code::cannot_open, file.string(), 0, 0, std::move(what), std::move(advice), {}}});
}

std::string content_of(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) {
        refuse(file, "this file cannot be read", "");
    }
    return {std::istreambuf_iterator<char>(in), {}};
}

/// Beside the file that is meant, and then in its place. A file of the temporary's name that
/// is there already, such as a link that somebody has laid, is not written through.
bool write_whole(const fs::path& file, const std::string& text) {
    std::error_code error;
    const fs::path whole = fs::weakly_canonical(file, error);
    if (error) {
        return false;
    }
    fs::path apart = whole;
    apart += ".new";
    fs::remove(apart, error); // what a program that was killed has left
    std::FILE* const out = std::fopen(apart.c_str(), "wxb");
    if (out == nullptr) {
        return false;
    }
    const bool is_written = std::fwrite(text.data(), 1, text.size(), out) == text.size();
    const bool is_closed = std::fclose(out) == 0;
    if (const fs::file_status before = fs::status(whole, error); !error && fs::exists(before)) {
        fs::permissions(apart, before.permissions(), error);
    } else {
        error.clear();
    }
    if (is_written && is_closed && !error) {
        fs::rename(apart, whole, error);
        if (!error) {
            return true;
        }
    }
    fs::remove(apart, error);
    return false;
}

const wire_in_text& wire_at(const std::vector<wire_in_text>& all, std::size_t number) {
    if (number >= all.size()) {
        throw std::out_of_range("courier: there is no wire " + std::to_string(number) + "; this file has " +
                                std::to_string(all.size()));
    }
    return all[number];
}

auto key_of(const wire_in_text& wire, std::string_view key) {
    return std::find_if(wire.keys.begin(), wire.keys.end(), [&](const auto& one) { return one.key == key; });
}

/// The text of a key, or of each item, as "a, b".
std::string text_in(const detail::data& wire, std::string_view key) {
    std::string all;
    if (const detail::data* const found = wire.find(key); found != nullptr) {
        for (const detail::data& one : detail::one_or_several(*found)) {
            all +=
                one.kind != detail::data_kind::text ? std::string() : (all.empty() ? "" : ", ") + std::string(one.text);
        }
    }
    return all;
}

} // namespace

wiring_edit::wiring_edit(fs::path file, std::string text, catalogue has)
    : file_(std::move(file)), has_(std::move(has)) {
    take(std::move(text));
}

wiring_edit wiring_edit::of(const fs::path& file, catalogue has) {
    wiring_edit made(file, content_of(file), std::move(has));
    made.read_ = made.text_;
    made.was_read_ = true;
    return made;
}

/// Nothing has changed when it throws.
void wiring_edit::take(std::string text) {
    static_cast<void>(detail::wires_in(file_.string(), text));
    text_ = std::move(text);
}

std::vector<edited_wire> wiring_edit::wires() const {
    detail::wiring_document document;
    detail::fault_list faults(document.files);
    detail::data parsed;
    document.files.emplace_back(file_.string(), text_);
    static_cast<void>(detail::read_toml(document.files.front(), 0, document.store, parsed, faults));
    const detail::data* const list = parsed.find("wire");
    std::vector<edited_wire> all;
    for (const wire_in_text& one : detail::wires_in(file_.string(), text_)) {
        edited_wire& made = all.emplace_back();
        made.line = one.line;
        made.text = text_.substr(one.lines.first, one.lines.past - one.lines.first);
        for (const detail::data& wire : list->items) {
            if (wire.at.line == one.line) {
                made.name = text_in(wire, "name");
                made.when = text_in(wire, "when");
                made.at = text_in(wire, "at");
                made.note = text_in(wire, "note");
                const detail::data* const enabled = wire.find("enabled");
                made.enabled = enabled == nullptr || enabled->kind != detail::data_kind::truth || enabled->truth;
            }
        }
    }
    return all;
}

void wiring_edit::set(std::size_t wire, std::string_view key, std::string_view value) {
    const std::vector<wire_in_text> all = detail::wires_in(file_.string(), text_);
    const wire_in_text& at = wire_at(all, wire);
    const std::string line = std::string(key) + " = " + std::string(value) + "\n";
    const auto known = key_of(at, key);
    std::string made = text_;
    if (known != at.keys.end() && !known->has_header) {
        made.replace(known->value.first, known->value.past - known->value.first, value);
    } else {
        if (known != at.keys.end()) { // comes behind the keys
            made.erase(known->lines.first, known->lines.past - known->lines.first);
        }
        const bool is_open = at.keys_past != 0 && made[at.keys_past - 1] != '\n'; // the file ends in that line
        made.insert(at.keys_past, (is_open ? "\n" : "") + line);
    }
    take(std::move(made));
}

void wiring_edit::erase(std::size_t wire, std::string_view key) {
    const std::vector<wire_in_text> all = detail::wires_in(file_.string(), text_);
    const wire_in_text& at = wire_at(all, wire);
    if (const auto known = key_of(at, key); known != at.keys.end()) {
        std::string made = text_;
        made.erase(known->lines.first, known->lines.past - known->lines.first);
        take(std::move(made));
    }
}

std::size_t wiring_edit::add(std::string_view keys) {
    const std::vector<wire_in_text> all = detail::wires_in(file_.string(), text_);
    const std::size_t at = all.empty() ? text_.size() : all.back().lines.past;
    std::string made = text_.substr(0, at);
    made += made.empty() || made.ends_with('\n') ? "" : "\n";
    made += made.empty() ? "[[wire]]\n" : "\n[[wire]]\n";
    made += keys;
    made += keys.ends_with('\n') ? "" : "\n";
    made += text_.substr(at);
    if (detail::wires_in(file_.string(), made).size() != all.size() + 1) {
        throw std::invalid_argument("courier: the keys of one wire are added, without '[[wire]]'");
    }
    take(std::move(made));
    return all.size();
}

void wiring_edit::remove(std::size_t wire) {
    const std::vector<wire_in_text> all = detail::wires_in(file_.string(), text_);
    const wire_in_text& at = wire_at(all, wire);
    std::string made = text_;
    std::size_t past = at.lines.past;
    if (past < made.size() && made[past] == '\n') { // one of two empty lines
        ++past;
    }
    made.erase(at.lines.first, past - at.lines.first);
    take(std::move(made));
}

void wiring_edit::replace(std::string text) {
    take(std::move(text));
}

wiring_check wiring_edit::check() const {
    return check_wiring_edited(file_, text_, has_, inside_);
}

void wiring_edit::save() {
    if (was_read_ && content_of(file_) != read_) {
        refuse(file_, "somebody else has changed this file since it was read", "read it again, and change that");
    }
    if (!write_whole(file_, text_)) {
        refuse(file_, "this file cannot be written", "see whether there is room, and whether it may be written");
    }
    read_ = text_;
    was_read_ = true;
}

WIRED_COURIER_NAMESPACE_END
