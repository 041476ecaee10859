// SPDX-License-Identifier: MIT
#include "wiring/text/read_files.hpp"

#include <algorithm>
#include <fstream>
#include <iterator>
#include <optional>
#include <system_error>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::uintmax_t most_bytes = std::uintmax_t{64} << 20; ///< of a file
constexpr std::size_t most_files = 1000;

namespace fs = std::filesystem;

class file_reader {
public:
    file_reader(wiring_document& into, fault_list& faults) : into_(into), faults_(faults) {}

    void stay_inside(const std::vector<fs::path>& folders) { folders_ = &folders; }

    /// What stands for the content of a file.
    void take_for(const fs::path& path, std::string_view text) {
        edited_ = fs::weakly_canonical(path);
        edited_text_ = text;
    }

    void read(const fs::path& path) {
        if (!is_new(path)) {
            return;
        }
        const std::optional<std::string> text = text_of(path);
        if (!text) {
            return;
        }
        const auto number = static_cast<std::uint32_t>(into_.files.size());
        into_.files.emplace_back(path.string(), *text);
        data parsed;
        const bool is_toml = read_toml(into_.files.back(), number, into_.store, parsed, faults_);
        if (is_toml) {
            on_the_way_.push_back(fs::weakly_canonical(path));
            include(parsed, path);
            on_the_way_.pop_back();
        }
        parsed_.emplace_back(number, parsed);
    }

    /// In the order of the numbers; of what is no TOML an empty table.
    void finish() {
        into_.parsed.resize(into_.files.size());
        for (data& one : into_.parsed) {
            one.kind = data_kind::table;
        }
        for (const auto& [number, parsed] : parsed_) {
            if (parsed.kind == data_kind::table) {
                into_.parsed[number] = parsed;
            }
        }
    }

private:
    bool is_new(const fs::path& path) {
        const fs::path whole = fs::weakly_canonical(path);
        if (std::find(known_.begin(), known_.end(), whole) != known_.end()) {
            return false;
        }
        known_.push_back(whole);
        return true;
    }

    std::optional<std::string> text_of(const fs::path& path) {
        if (edited_ && fs::weakly_canonical(path) == *edited_) {
            return std::string(edited_text_);
        }
        if (folders_ != nullptr && !folders_->empty() && !lies_in(path, *folders_)) {
            refuse(wiring_code::cannot_open, path, "this file is not in the folder of the wiring",
                   "include files of that folder only");
            return std::nullopt;
        }
        std::error_code error;
        const std::uintmax_t size = fs::file_size(path, error);
        if (!error && !fs::is_regular_file(path, error)) { // a device may have no end, or throw
            refuse(wiring_code::cannot_open, path, "not a regular file", "name a file");
            return std::nullopt;
        }
        const fs::file_time_type time = error ? fs::file_time_type{} : fs::last_write_time(path, error);
        std::ifstream in(path, std::ios::binary);
        if (error || !in) {
            refuse(wiring_code::cannot_open, path,
                   "this file cannot be read" + (error ? ": " + error.message() : std::string()),
                   "look at its name, which is found from the folder of the file that includes it, and at its rights");
            return std::nullopt;
        }
        if (size > most_bytes) {
            refuse(wiring_code::too_large, path, "this file has more than 64 MiB", "make several of it");
            return std::nullopt;
        }
        into_.paths.push_back(path);
        into_.times.push_back(time);
        return std::string(std::istreambuf_iterator<char>(in), {});
    }

    void refuse(wiring_code code, const fs::path& path, std::string what, std::string advice) {
        if (included_at_) {
            faults_.add(code, *included_at_, quoted_path(path) + ": " + what, std::move(advice));
        } else {
            faults_.add({code, path.string(), 0, 0, std::move(what), std::move(advice), {}});
        }
    }
    static std::string quoted_path(const fs::path& path) { return "'" + path.string() + "'"; }

    void include(const data& parsed, const fs::path& by) {
        const data* const list = parsed.find("include");
        if (list == nullptr) {
            return;
        }
        const std::span<const data> names =
            list->kind == data_kind::list ? std::span<const data>(list->items) : std::span<const data>(list, 1);
        for (const data& name : names) {
            const std::optional<place_in> before = included_at_;
            included_at_ = name.at;
            if (name.kind != data_kind::text) {
                faults_.add(wiring_code::wrong_type, name.at,
                            "'include' must be the name of a file, or a list of names",
                            "write include = \"bells.toml\"");
            } else if (into_.files.size() >= most_files) {
                faults_.add(wiring_code::too_large, name.at, "these are more than 1000 files", "join some of them");
            } else {
                const fs::path path = by.parent_path() / fs::path(name.text);
                if (std::find(on_the_way_.begin(), on_the_way_.end(), fs::weakly_canonical(path)) !=
                    on_the_way_.end()) {
                    faults_.add(wiring_code::include_circle, name.at,
                                quoted_path(path) + " includes itself, directly or through others",
                                "take this include out");
                } else {
                    read(path);
                }
            }
            included_at_ = before;
        }
    }

    wiring_document& into_;
    fault_list& faults_;
    std::vector<fs::path> known_;
    std::vector<fs::path> on_the_way_;
    std::vector<std::pair<std::uint32_t, data>> parsed_;
    std::optional<place_in> included_at_;
    std::optional<fs::path> edited_;
    std::string_view edited_text_;
    const std::vector<fs::path>* folders_ = nullptr;
};

} // namespace

void read_files(const std::vector<fs::path>& files, wiring_document& into, fault_list& faults) {
    file_reader by(into, faults);
    for (const fs::path& one : files) {
        by.read(one);
    }
    by.finish();
}

bool lies_in(const fs::path& file, const std::vector<fs::path>& folders) {
    std::error_code error;
    const fs::path whole = fs::weakly_canonical(file, error);
    return !error && std::any_of(folders.begin(), folders.end(), [&](const fs::path& folder) {
        std::error_code wrong;
        const fs::path top = fs::weakly_canonical(folder.empty() ? fs::path(".") : folder, wrong);
        const fs::path below = wrong ? fs::path() : whole.lexically_relative(top);
        return !below.empty() && *below.begin() != "..";
    });
}

void read_edited(const fs::path& file, std::string_view text, const std::vector<fs::path>& inside,
                 wiring_document& into, fault_list& faults) {
    file_reader by(into, faults);
    by.stay_inside(inside);
    by.take_for(file, text);
    by.read(file);
    by.finish();
}

void read_text(std::string_view name, std::string_view text, wiring_document& into, fault_list& faults) {
    into.files.emplace_back(std::string(name), std::string(text));
    data parsed;
    if (read_toml(into.files.back(), 0, into.store, parsed, faults)) {
        if (const data* const include = parsed.find("include"); include != nullptr) {
            faults.add(wiring_code::unknown_key, include->at, "only a file can include others", "take this out");
        }
    }
    parsed.kind = data_kind::table;
    into.parsed.push_back(parsed);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
