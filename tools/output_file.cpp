// SPDX-License-Identifier: MIT
#include "output_file.hpp"

#include "output.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstring>
#include <utility>

namespace tool {

output_file::output_file(std::string name)
    : name_(std::move(name)), file_(is_standard_output() ? stdout : std::fopen(name_.c_str(), "wb")) {
    if (file_ == nullptr) {
        fail();
    }
}

output_file::~output_file() {
    if (file_ != nullptr && file_ != stdout) {
        std::fclose(file_);
    }
}

void output_file::write(std::string_view text) {
    if (std::fwrite(text.data(), 1, text.size(), file_) != text.size()) {
        fail();
    }
}

void output_file::close() {
    std::FILE* const file = std::exchange(file_, nullptr);
    if (file == stdout) {
        flush_output();
    } else if (std::fclose(file) != 0) {
        fail();
    }
}

void output_file::fail() const {
    throw output_error(
        fmt::format("cannot write {}: {}", is_standard_output() ? "standard output" : name_, std::strerror(errno)));
}

} // namespace tool
