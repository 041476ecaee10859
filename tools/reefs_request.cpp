// SPDX-License-Identifier: MIT
#include "reefs_request.hpp"

#include "live_command.hpp"
#include "local_broker.hpp"
#include "output.hpp"
#include "paint.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <map>
#include <stdexcept>
#include <string>
#include <thread>
#include <vector>

#include <spawn.h>
#include <sys/prctl.h>
#include <sys/wait.h>

extern char** environ; // NOLINT(readability-redundant-declaration): POSIX leaves it to the program

namespace tool {

namespace {

std::string recording_of(const std::string& record, const std::string& process) {
    if (record.empty()) {
        return {};
    }
    const std::filesystem::path all = record;
    return (all.parent_path() / (all.stem().string() + "-" + process + all.extension().string())).string();
}

/// The lighthouses, as processes.
class lighthouses {
public:
    lighthouses(const reef::reefs_options& options, int port) : options_(options), port_(port) {}
    lighthouses(const lighthouses&) = delete;
    lighthouses& operator=(const lighthouses&) = delete;
    /// None is left behind.
    ~lighthouses() {
        for (const auto& [number, process] : running_) {
            ::kill(process, SIGTERM);
        }
        const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(3);
        for (const auto& [number, process] : running_) {
            while (::waitpid(process, nullptr, WNOHANG) == 0) {
                if (std::chrono::steady_clock::now() > until) {
                    ::kill(process, SIGKILL);
                }
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
            }
        }
    }

    void start(int number, bool returns) {
        std::vector<std::string> words{"courier",      "demo",
                                       "--lighthouse", fmt::format("{}", number),
                                       "--processes",  fmt::format("{}", options_.reefs),
                                       "--port",       fmt::format("{}", port_),
                                       "--pace",       fmt::format("{}", options_.pace),
                                       "--seed",       fmt::format("{}", options_.seed)};
        if (returns) {
            words.emplace_back("--returns");
        }
        const std::string suffix = returns ? fmt::format("reef-{}-again", number) : fmt::format("reef-{}", number);
        if (const std::string file = recording_of(options_.record, suffix); !file.empty()) {
            words.insert(words.end(), {"--record", file});
        }
        std::vector<char*> arguments;
        arguments.reserve(words.size() + 1);
        for (std::string& word : words) {
            arguments.push_back(word.data());
        }
        arguments.push_back(nullptr);
        pid_t process = 0;
        const int failed = ::posix_spawn(&process, "/proc/self/exe", nullptr, nullptr, arguments.data(), environ);
        if (failed != 0) {
            throw std::runtime_error(std::string("a lighthouse cannot be started: ") + std::strerror(failed));
        }
        running_[number] = process;
    }

    /// Without a word.
    void kill(int number) {
        if (const auto found = running_.find(number); found != running_.end()) {
            ::kill(found->second, SIGKILL);
            ::waitpid(found->second, nullptr, 0);
            running_.erase(found);
        }
    }

private:
    const reef::reefs_options& options_;
    const int port_;
    std::map<int, pid_t> running_;
};

void print_result(const reef::office_result& result, bool colours) {
    print("\n{}\n", paint("the office's board", colour::bold, colours));
    print("  {:<8} {:<6} {:>8} {:>8} {:>8} {:>8}   {}\n{}", "reef", "hour", "afloat", "sailed", "lost", "fathoms",
          "lighthouse", result.board);
    print("  home: {} of {} barges, {} crates; {} lost to wyrms on the way\n", result.home, result.of, result.crates,
          result.lost);
    print("  told twice: {} legs; not come: {} payloads of {}\n", result.twice, result.missing, result.payloads);
    print("  told again to the lighthouse that came back: {} barges\n", result.told_again);
}

} // namespace

int run_reefs(const reef::reefs_options& options, bool quiet) {
    const std::atomic<bool>& over = told_to_end();
    const reef::local_broker broker;
    const bool colours = colours_wanted();
    print("{}\n", paint(fmt::format("{} lighthouses, the harbour office, and a broker at 127.0.0.1:{}", options.reefs,
                                    broker.port()),
                        colour::bold, colours));
    flush_output();
    reef::reefs_options own = options;
    own.port = broker.port();
    own.record = recording_of(options.record, "office");
    reef::office_result result;
    {
        lighthouses all(options, broker.port());
        for (int number = 1; number <= options.reefs; ++number) {
            all.start(number, false);
        }
        result = reef::run_office(own,
                                  {.kill = [&](int number) { all.kill(number); },
                                   .start_again = [&](int number) { all.start(number, true); }},
                                  over, [quiet](const std::string& line) {
                                      if (!quiet) {
                                          print("{}\n", line);
                                          flush_output();
                                      }
                                  });
    }
    print_result(result, colours);
    return result.is_whole ? 0 : 1;
}

int run_as_lighthouse(const reef::reefs_options& options, int number, bool returns) {
    ::prctl(PR_SET_PDEATHSIG, SIGTERM); // it does not outlive the office, however that ends
    reef::run_lighthouse(options, number, returns, told_to_end());
    return 0;
}

} // namespace tool
