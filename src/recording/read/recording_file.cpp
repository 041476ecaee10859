// SPDX-License-Identifier: MIT
// Reading a whole recording.
#include <courier/recording/read_run.hpp>

#include "recording/limits.hpp"

#include <simdjson.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <system_error>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

/// Closes itself.
struct input {
    explicit input(const std::filesystem::path& path) : file(std::fopen(path.c_str(), "rb")) {
        std::error_code ignored;
        if (file == nullptr || std::filesystem::is_directory(path, ignored)) {
            const std::string why = file == nullptr ? std::strerror(errno) : "it is a folder";
            throw recording_error(recording_code::cannot_open, "cannot be read: " + why, path.string(),
                                  "name a recording");
        }
    }
    input(const input&) = delete;
    input& operator=(const input&) = delete;
    ~input() {
        if (file != nullptr) {
            std::fclose(file);
        }
    }
    std::FILE* file;
};

/// Reads a file piece by piece, and hands out its lines.
class line_source {
public:
    explicit line_source(std::FILE* file) : file_(file), bytes_(piece + simdjson::SIMDJSON_PADDING) {}

    /// More whole lines; false at the end, when `rest()` is what has no end of line.
    bool next(std::string_view& lines, std::size_t& room) {
        while (fill()) {
            const std::string_view all = rest();
            const std::size_t end = all.rfind('\n');
            if (end != std::string_view::npos) {
                lines = all.substr(0, end + 1);
                room = bytes_.size() - at_ - lines.size();
                at_ += lines.size();
                return true;
            }
            if (all.size() > detail::longest_line) {
                return false;
            }
        }
        return false;
    }
    [[nodiscard]] std::string_view rest() const noexcept { return {bytes_.data() + at_, filled_ - at_}; }
    [[nodiscard]] std::uint64_t read() const noexcept { return read_; }

private:
    static constexpr std::size_t piece = std::size_t{4} << 20;

    bool fill() {
        std::memmove(bytes_.data(), bytes_.data() + at_, filled_ - at_);
        filled_ -= at_;
        at_ = 0;
        if (bytes_.size() - filled_ < piece / 2) {
            bytes_.resize(bytes_.size() * 2);
        }
        const std::size_t got =
            std::fread(bytes_.data() + filled_, 1, bytes_.size() - simdjson::SIMDJSON_PADDING - filled_, file_);
        filled_ += got;
        read_ += got;
        return got != 0;
    }

    std::FILE* file_;
    std::vector<char> bytes_;
    std::size_t at_ = 0;
    std::size_t filled_ = 0;
    std::uint64_t read_ = 0;
};

bool is_whole(std::string_view line) {
    simdjson::dom::parser parser;
    return parser.parse(line.data(), line.size(), true).error() == simdjson::SUCCESS;
}

} // namespace

run read_run(const std::filesystem::path& file, const read_options& options) {
    const input in(file);
    std::error_code unknown;
    const std::uint64_t size = std::filesystem::file_size(file, unknown);
    run made;
    run_builder builder(made, file.string(), options);
    line_source lines(in.file);
    std::string_view line;
    std::size_t room = 0;
    std::uint64_t told = 0;
    builder.expect(size);
    while (lines.next(line, room)) {
        builder.lines(line, room);
        constexpr std::uint64_t every = std::uint64_t{8} << 20;
        if (options.progress && lines.read() >= told + every) {
            told = lines.read();
            options.progress(told, unknown ? told : size);
        }
    }
    if (const std::string_view rest = lines.rest(); !rest.empty()) {
        if (rest.size() > detail::longest_line || is_whole(rest) || made.lines == 0) {
            builder.line(rest); // only the end of the line is missing, or it says what is wrong
        } else {
            made.cut = true;
        }
    }
    if (made.lines == 0 && !made.cut) {
        throw recording_error(recording_code::empty, "nothing is in this file", file.string(),
                              "look whether the recorder was ever started");
    }
    builder.done();
    return made;
}

WIRED_COURIER_NAMESPACE_END
