// SPDX-License-Identifier: MIT
// courier new: a small game that builds, runs, is tested and is recorded.
#include "commands.hpp"
#include "new_game.hpp"
#include "output.hpp"
#include "output_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <system_error>

namespace tool {

namespace {

struct new_request {
    std::string folder;
};

/// The folder's name as a target of CMake and a word of code: letters, digits and '_'.
std::string game_name(const std::filesystem::path& folder) {
    std::string name = folder.filename().string();
    const auto is_letter = [](char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; };
    const auto fits = [&](char c) { return is_letter(c) || (c >= '0' && c <= '9'); };
    if (name.empty() || !is_letter(name.front()) || !std::all_of(name.begin(), name.end(), fits)) {
        throw usage_error(fmt::format("'{}' cannot be the name of a game", name),
                          "use letters, digits and '_', a letter first: courier new reef_game");
    }
    return name;
}

std::string with_name(std::string_view text, std::string_view name) {
    std::string made;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t next = std::min(text.find(new_game_name, at), text.size());
        made += text.substr(at, next - at);
        if (next != text.size()) {
            made += name;
        }
        at = next + new_game_name.size();
    }
    return made;
}

int run_new(const new_request& request) {
    const std::filesystem::path given = std::filesystem::path(request.folder).lexically_normal();
    const std::filesystem::path folder = given.has_filename() ? given : given.parent_path();
    const std::string name = game_name(folder);
    std::error_code failed;
    if (std::filesystem::exists(folder, failed) && !std::filesystem::is_empty(folder, failed)) {
        throw usage_error(fmt::format("'{}' is not an empty folder", folder.string()),
                          "nothing was written; name a folder that is new");
    }
    std::filesystem::create_directories(folder, failed);
    if (failed) {
        throw output_error(fmt::format("'{}' cannot be made: {}", folder.string(), failed.message()));
    }
    for (const game_file& one : new_game_files()) {
        output_file to((folder / one.name).string());
        to.write(with_name(one.text, name));
        to.close();
        print("{}\n", (folder / one.name).string());
    }
    print("\nNext:  cd {} && cmake -S . -B build && cmake --build build && build/{} night.jsonl\n", folder.string(),
          name);
    return 0;
}

} // namespace

void add_new(command_line& to) {
    auto request = std::make_shared<new_request>();
    option_set options = to.add("new", "Write a small game to begin with: it builds, runs, is tested and recorded",
                                [request] { return run_new(*request); });
    options.required("FOLDER", request->folder, "A new folder; its name becomes the game's")
        .examples({"courier new reef_game"});
}

} // namespace tool
