// SPDX-License-Identifier: MIT
#include "recording/write/output_file.hpp"

#include "data/lock_file.hpp"

#include <courier/recording/recording_fault.hpp>

#include <cerrno>
#include <cstring>
#include <string>

#if __has_include(<sys/file.h>)
#include <fcntl.h>
#include <unistd.h>
#endif

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

[[noreturn]] void cannot_write(const std::filesystem::path& path, const std::string& why, const char* advice) {
    throw recording_error(recording_code::cannot_open, "cannot be written: " + why, path.string(), advice);
}

[[noreturn]] void cannot_open(const std::filesystem::path& path) {
    cannot_write(path, std::strerror(errno), "name a file in a folder that can be written to");
}

} // namespace

#if __has_include(<sys/file.h>)
// The file is emptied only once it is known that nobody else writes there.
std::FILE* open_output(const std::filesystem::path& path) {
    const int opened = ::open(path.c_str(), O_WRONLY | O_CREAT | O_CLOEXEC, 0666);
    if (opened < 0) {
        cannot_open(path);
    }
    if (!lock_file(opened)) {
        ::close(opened);
        cannot_write(path, "another recorder is writing it", "give each recorder its own file");
    }
    // A pipe and a device have no length.
    std::FILE* const file = ::ftruncate(opened, 0) == 0 || errno == EINVAL ? ::fdopen(opened, "wb") : nullptr;
    if (file == nullptr) {
        const int why = errno;
        ::close(opened);
        errno = why;
        cannot_open(path);
    }
    return file;
}
#else
std::FILE* open_output(const std::filesystem::path& path) {
    std::FILE* const file = std::fopen(path.string().c_str(), "wb");
    if (file == nullptr) {
        cannot_open(path);
    }
    return file;
}
#endif

} // namespace detail
WIRED_COURIER_NAMESPACE_END
