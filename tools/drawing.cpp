// SPDX-License-Identifier: MIT
#include "drawing.hpp"
#include "output.hpp"
#include "output_file.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <stdexcept>

#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

namespace tool {

namespace {

[[noreturn]] void cannot(const std::string& what, const std::string& file) {
    throw std::runtime_error(fmt::format("cannot {} {}: {}", what, file, std::strerror(errno)));
}

} // namespace

scratch_file::scratch_file() {
    std::error_code wrong;
    const std::filesystem::path folder = std::filesystem::temp_directory_path(wrong);
    if (wrong) {
        const char* const named = std::getenv("TMPDIR");
        throw std::runtime_error(
            fmt::format("there is no folder for scratch files: TMPDIR names '{}' ({}); let it name "
                        "one that can be written to",
                        named != nullptr ? named : "", wrong.message()));
    }
    path_ = (folder / "courier-XXXXXX").string();
    const int made = mkstemp(path_.data());
    if (made < 0) {
        cannot("make", path_);
    }
    close(made);
}

scratch_file::~scratch_file() {
    std::error_code ignored;
    std::filesystem::remove(path_, ignored);
}

void write_text(const std::string& file, const std::string& text) {
    if (file == "-") {
        print("{}", text);
        return;
    }
    output_file to(file);
    to.write(text);
    to.close();
}

void draw(const std::string& program, const std::vector<std::string>& arguments, const std::string& package,
          const std::string& text, const std::string& file) {
    const scratch_file input;
    const scratch_file drawn; // since these programs do not notice that a disk is full
    write_text(input.path(), text);
    std::vector<std::string> words{program};
    words.insert(words.end(), arguments.begin(), arguments.end());
    words.push_back(drawn.path());
    words.push_back(input.path());
    std::vector<char*> pointers;
    pointers.reserve(words.size() + 1);
    for (std::string& word : words) {
        pointers.push_back(word.data());
    }
    pointers.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    pid_t child = 0;
    const int failed = posix_spawnp(&child, program.c_str(), &actions, nullptr, pointers.data(), environ);
    posix_spawn_file_actions_destroy(&actions);
    int status = 0;
    if (failed == 0) {
        waitpid(child, &status, 0);
    }
    if (failed != 0 || (WIFEXITED(status) && WEXITSTATUS(status) == 127)) {
        throw std::runtime_error(
            fmt::format("'{}', which draws this, is not installed; it comes with Debian's {}", program, package));
    }
    if (!WIFEXITED(status) || WEXITSTATUS(status) != 0) {
        throw std::runtime_error(fmt::format("'{}' could not draw {}; what it says stands above", program, file));
    }
    std::ifstream in(drawn.path(), std::ios::binary);
    output_file to(file);
    to.write(std::string(std::istreambuf_iterator<char>(in), {}));
    to.close();
}

} // namespace tool
