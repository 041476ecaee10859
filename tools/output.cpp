#include "output.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>

#include <fcntl.h>
#include <unistd.h>

namespace tool {

void hold_standard_streams() noexcept {
    for (const int descriptor : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
        if (fcntl(descriptor, F_GETFD) == -1 && errno == EBADF) {
            // The lowest one that is free, and so this one.
            static_cast<void>(open("/dev/null", descriptor == STDERR_FILENO ? O_WRONLY : O_RDONLY));
        }
    }
}

void flush_output() {
    if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0) {
        const int why = errno;
        std::clearerr(stdout);
        throw output_error(fmt::format("cannot write to standard output: {}", std::strerror(why)));
    }
}

void say(const std::string& text) noexcept {
    std::fputs(text.c_str(), stderr);
}

void check_not_the_recording(const std::string& recording, const std::string& option, const std::string& to) {
    std::error_code ignored;
    if (!to.empty() && to != "-" && std::filesystem::equivalent(recording, to, ignored)) {
        throw std::invalid_argument(
            fmt::format("{} {} is the recording itself, which would be lost; name another file", option, to));
    }
}

} // namespace tool
