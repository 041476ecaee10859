// What the recording component's tests share.
#pragma once

#include "../support.hpp"

#include <courier/recording/recorder.hpp>
#include <courier/recording/run.hpp>

#include <nlohmann/json.hpp>

#include <cstdio>

#include <unistd.h>

namespace test {

enum class berth : int { none, north, south };

struct Crate {
    std::string what;
    double weight = 0;
};

struct Landed {
    int barge = 0;
    berth at = berth::none;
    std::string_view note;
    std::vector<Crate> crates;
    std::optional<bool> dry;
};

struct Hailed {
    using address = int;
    int order = 0;
};

class Unnamed {
public:
    Unnamed() = default;
    explicit Unnamed(int its_secret) : secret_(its_secret) {}
    [[nodiscard]] int secret() const { return secret_; }

private:
    int secret_ = 0;
};

/// A file of this test's own, gone afterwards.
class scratch {
public:
    explicit scratch(const std::string& name)
        : path_(std::filesystem::temp_directory_path() / ("courier_" + std::to_string(getpid()) + "_" + name)) {}
    scratch(const scratch&) = delete;
    scratch& operator=(const scratch&) = delete;
    ~scratch() { std::filesystem::remove(path_); }

    [[nodiscard]] std::string path() const { return path_.string(); }
    [[nodiscard]] std::string text() const {
        std::ifstream in(path_, std::ios::binary);
        return {std::istreambuf_iterator<char>(in), {}};
    }
    [[nodiscard]] std::vector<std::string> lines() const {
        std::vector<std::string> all;
        std::ifstream in(path_, std::ios::binary);
        for (std::string line; std::getline(in, line);) {
            all.push_back(line);
        }
        return all;
    }
    void write(const std::string& text) const { std::ofstream(path_, std::ios::binary) << text; }

private:
    std::filesystem::path path_;
};

} // namespace test
