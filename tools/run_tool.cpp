// SPDX-License-Identifier: MIT
#include "run_tool.hpp"

#include "output.hpp"

#include <courier/wiring/wiring_fault.hpp>

#include <fmt/core.h>

#include <cstdio>
#include <exception>
#include <filesystem>
#include <stdexcept>
#include <string>
#include <system_error>

namespace tool {

namespace {

constexpr int exit_bad_use = 2;

int bad_use(const std::string& why) {
    say(fmt::format("courier: {}\n", why));
    return exit_bad_use;
}

} // namespace

int run_tool(int argc, char** argv, const char* footer, void (*add)(command_line&)) {
    hold_standard_streams();
    try {
        command_line line("Wired Courier: typed event channels for games", footer);
        add(line);
        const int code = line.run(argc, argv);
        flush_output();
        return code;
    } catch (const courier::wiring_error& error) {
        say(std::string(error.what()) + "\n");
        return bad_use(counted(error.faults().size(), "fault") + " in the wiring, so none of it was taken");
    } catch (const std::filesystem::filesystem_error& error) {
        return bad_use(std::string(error.what()) + " [courier.tool.system]");
    } catch (const std::system_error& error) { // as fmt throws it
        return bad_use((std::ferror(stdout) != 0
                            ? fmt::format("cannot write to standard output: {}", error.code().message())
                            : error.what()) +
                       std::string(" [courier.tool.system]"));
    } catch (const usage_error& error) {
        return bad_use(error.what());
    } catch (const std::invalid_argument& error) {
        return bad_use(usage_error(error.what()).what());
    } catch (const std::exception& error) {
        return bad_use(error.what());
    }
}

} // namespace tool
