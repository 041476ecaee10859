// Files of the user's.
#include "gateway/serve/answers.hpp"

#include <array>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string_view>
#include <system_error>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

namespace fs = std::filesystem;

constexpr std::uintmax_t largest_file = std::uintmax_t{64} << 20;

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

reply file_of(const gateway_core& core, const std::string& path) {
    const fs::path file = core.options.folder.empty() ? fs::path() : inside(core.options.folder, path);
    std::error_code wrong;
    if (file.empty() || fs::file_size(file, wrong) > largest_file || wrong) {
        return refuse(refusal::unknown_path, "there is no '" + path + "' here");
    }
    std::ifstream in(file, std::ios::binary);
    return {200, type_of(file), std::string(std::istreambuf_iterator<char>(in), {}), {}};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
