// SPDX-License-Identifier: MIT
// Files of the user's.
#include "gateway/serve/answers.hpp"

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <memory>
#include <string>
#include <string_view>
#include <system_error>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

namespace fs = std::filesystem;

constexpr std::uintmax_t largest_file = std::uintmax_t{64} << 20;
constexpr std::size_t piece = std::size_t{16} << 10; // read at a time, for slow readers hold it

std::string type_of(const fs::path& file) {
    constexpr std::array<std::pair<std::string_view, std::string_view>, 17> types{{
        {".html", "text/html; charset=utf-8"},
        {".js", "text/javascript; charset=utf-8"},
        {".mjs", "text/javascript; charset=utf-8"},
        {".css", "text/css; charset=utf-8"},
        {".json", "application/json"},
        {".svg", "image/svg+xml"},
        {".png", "image/png"},
        {".jpg", "image/jpeg"},
        {".webp", "image/webp"},
        {".gif", "image/gif"},
        {".ico", "image/x-icon"},
        {".woff2", "font/woff2"},
        {".ttf", "font/ttf"},
        {".wasm", "application/wasm"},
        {".mp3", "audio/mpeg"},
        {".ogg", "audio/ogg"},
        {".txt", "text/plain; charset=utf-8"},
    }};
    for (const auto& [end, type] : types) {
        if (file.extension() == end) {
            return std::string(type);
        }
    }
    return "application/octet-stream";
}

/// The file that is meant, if it lies in the folder once all links are followed.
fs::path inside(const fs::path& folder, const std::string& path) {
    std::error_code wrong;
    const fs::path top = fs::canonical(folder, wrong);
    if (wrong || path.find('\0') != std::string::npos) {
        return {};
    }
    fs::path wanted = fs::canonical(top / fs::path(path).relative_path(), wrong);
    if (!wrong && fs::is_directory(wanted, wrong)) {
        wanted = fs::canonical(wanted / "index.html", wrong);
    }
    if (wrong || !fs::is_regular_file(wanted, wrong)) {
        return {};
    }
    const fs::path below = wanted.lexically_relative(top);
    return below.empty() || *below.begin() == ".." ? fs::path() : wanted;
}

} // namespace

void send_file(gateway_core& core, httplib::Response& response, const std::string& path) {
    const fs::path file = core.options.folder.empty() ? fs::path() : inside(core.options.folder, path);
    std::error_code wrong;
    const std::uintmax_t size = file.empty() ? 0 : fs::file_size(file, wrong);
    const auto in = std::make_shared<std::ifstream>(file, std::ios::binary);
    if (file.empty() || wrong || size > largest_file || !*in) {
        send(core, response, refuse(gateway_code::unknown_path, "there is no '" + path + "' here"));
        return;
    }
    if (size == 0) { // the HTTP library takes no provider for it
        response.set_content("", type_of(file));
        return;
    }
    response.set_content_provider(
        static_cast<std::size_t>(size), type_of(file), [in](std::size_t from, std::size_t left, httplib::DataSink& to) {
            std::array<char, piece> some{};
            in->seekg(static_cast<std::streamoff>(from));
            in->read(some.data(), static_cast<std::streamsize>(std::min(left, some.size())));
            const std::streamsize read = in->gcount(); // none when the file has become shorter
            return read > 0 && to.write(some.data(), static_cast<std::size_t>(read));
        });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
