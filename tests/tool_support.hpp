// Runs the tool as a process.
#pragma once

#include "support.hpp"

#include <cstdio>

#include <sys/wait.h>

namespace test {

struct run_result {
    int code;
    std::string out;
    std::string err;
};

inline std::string read_all(std::FILE* from) {
    std::string text;
    std::array<char, 4096> buffer{};
    while (const std::size_t n = std::fread(buffer.data(), 1, buffer.size(), from)) {
        text.append(buffer.data(), n);
    }
    return text;
}

inline run_result run_program(const char* program, const std::string& arguments) {
    const std::string errors = std::string{TEST_SCRATCH} + "/tool_stderr.txt";
    std::FILE* pipe = popen((std::string{program} + " " + arguments + " 2>" + errors).c_str(), "r");
    REQUIRE(pipe != nullptr);
    run_result result{};
    result.out = read_all(pipe);
    result.code = WEXITSTATUS(pclose(pipe));
    std::FILE* err = std::fopen(errors.c_str(), "r");
    REQUIRE(err != nullptr);
    result.err = read_all(err);
    std::fclose(err);
    return result;
}

inline run_result courier_tool(const std::string& arguments) {
    return run_program(COURIER_TOOL, arguments);
}

inline void check_bad_use(const std::string& arguments, const std::string& message) {
    CAPTURE(arguments);
    const run_result r = courier_tool(arguments);
    CHECK(r.code == 2);
    CHECK(r.out.empty());
    CHECK(r.err == message + "\n");
}

inline std::string content_of(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// A file of the tests' own with that text.
inline std::string written(const std::string& name, const std::string& text) {
    const std::string path = std::string{TEST_SCRATCH} + "/" + name;
    std::ofstream(path, std::ios::binary) << text;
    return path;
}

} // namespace test

using test::check_bad_use;
using test::courier_tool;
using test::run_result;
