// SPDX-License-Identifier: MIT
#include "ferry/outward/waiting_file.hpp"

#include "data/lock_file.hpp"

#include <courier/ferry/ferry_fault.hpp>

#include <fmt/format.h>

#include <cerrno>
#include <cstring>

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

[[noreturn]] void refuse_file(const std::filesystem::path& path, const std::string& why) {
    throw ferry_error(ferry_code::bad_file, "the file where payloads wait for the broker " + why, path.string(),
                      "choose another ferry_options::waiting_file");
}

constexpr std::size_t read_at_once = std::size_t{64} << 10;

} // namespace

waiting_file::waiting_file(const std::filesystem::path& path, std::size_t most) : most_(most) {
    file_ = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600); // NOLINT: there is no other way to say this
    if (file_ < 0) {
        refuse_file(path, std::string("cannot be opened: ") + std::strerror(errno));
    }
    if (!lock_file(file_)) {
        ::close(file_);
        refuse_file(path, "belongs to another process");
    }
    struct stat about {};
    if (::fstat(file_, &about) == 0 && about.st_size > 0) {
        size_ = static_cast<std::uint64_t>(about.st_size);
        char last = '\n';
        if (::pread(file_, &last, 1, about.st_size - 1) == 1 && last != '\n') {
            write_all("\n", size_); // a line that a process did not finish; it is passed over
            ++size_;
        }
    }
}

waiting_file::~waiting_file() {
    ::close(file_);
}

bool waiting_file::write_all(std::string_view text, std::uint64_t at) {
    std::size_t done = 0;
    while (done < text.size()) {
        const ssize_t wrote = ::pwrite(file_, text.data() + done, text.size() - done, static_cast<off_t>(at + done));
        if (wrote < 0 && errno == EINTR) {
            continue;
        }
        if (wrote <= 0) {
            return false;
        }
        done += static_cast<std::size_t>(wrote);
    }
    return true;
}

bool waiting_file::append(std::string_view line) {
    if (size_ + line.size() > most_) {
        return false;
    }
    if (!write_all(line, size_)) {
        static_cast<void>(::ftruncate(file_, static_cast<off_t>(size_)) == 0); // no half lines
        return false;
    }
    size_ += line.size();
    return true;
}

void waiting_file::refill() {
    const std::size_t held = ahead_.size();
    ahead_.resize(held + read_at_once);
    const ssize_t got = ::pread(file_, ahead_.data() + held, read_at_once, static_cast<off_t>(read_ + held));
    ahead_.resize(held + static_cast<std::size_t>(got > 0 ? got : 0));
}

std::optional<std::string> waiting_file::next() {
    std::size_t past = ahead_.find('\n');
    while (past == std::string::npos && read_ + ahead_.size() < size_) {
        const std::size_t before = ahead_.size();
        refill();
        if (ahead_.size() == before) {
            break; // it cannot be read
        }
        past = ahead_.find('\n', before);
    }
    if (past == std::string::npos) {
        read_ = size_;
        ahead_.clear();
        return std::nullopt;
    }
    std::string line = ahead_.substr(0, past);
    ahead_.erase(0, past + 1);
    read_ += past + 1;
    return line;
}

void waiting_file::clear() {
    static_cast<void>(::ftruncate(file_, 0) == 0);
    size_ = 0;
    read_ = 0;
    ahead_.clear();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
