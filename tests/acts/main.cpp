// Random programs of acts, checked by the sanitizers, by what is left over in
// the end, and by time: none takes longer than a few seconds.
#include "world.hpp"

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <csignal>

#include <unistd.h>

namespace {

std::string told; ///< the seed at work, for whoever looks at a program that hangs

void hangs(int) {
    constexpr char text[] = "acts: a program does not end; ";
    static_cast<void>(!write(STDERR_FILENO, text, sizeof text - 1));
    static_cast<void>(!write(STDERR_FILENO, told.data(), told.size()));
    std::_Exit(3);
}

void keep(const courier::fault& report) {
    const bool refused = report.code == courier::fault_code::set_in_formula ||
                         report.code == courier::fault_code::formula_circle || // and goes on
                         report.code == courier::fault_code::system_circle;    // and throws
    if (report.level == courier::severity::misuse && !refused) {
        fmt::print(stderr, "acts: {}{}: {}\n", told, id_of(report.code), report.text());
        std::abort();
    }
}

} // namespace

int main(int argc, char** argv) {
    unsigned seed = 1;
    unsigned programs = 0;
    int seconds = 5;
    int length = 150;
    CLI::App app("Does everything public at random, from every place where code of the user's runs");
    app.add_option("--seed", seed, "Of the first program")->capture_default_str();
    app.add_option("--programs", programs, "How many; 0: as many as there is time for")->capture_default_str();
    app.add_option("--seconds", seconds, "Time for all, without --programs")->capture_default_str();
    app.add_option("--length", length, "Acts of each, not counting those that follow from one")->capture_default_str();
    CLI11_PARSE(app, argc, argv);
    courier::set_fault_handler(&keep);
    std::signal(SIGALRM, &hangs);
    const auto begun = std::chrono::steady_clock::now();
    unsigned done = 0;
    const auto goes_on = [&] {
        return programs != 0 ? done < programs
                             : std::chrono::steady_clock::now() - begun < std::chrono::seconds(seconds);
    };
    for (; goes_on(); ++done) {
        told = fmt::format("seed {}, length {}: ", seed + done, length);
        alarm(60);
        acts::world world(seed + done);
        for (int i = 0; i < length; ++i) {
            world.step();
        }
        if (const std::string left = world.finish(); !left.empty()) {
            fmt::print(stderr, "acts: {}{}\n", told, left);
            return 1;
        }
    }
    alarm(0);
    const auto took = std::chrono::steady_clock::now() - begun;
    fmt::print("acts: {} programs of {} acts, seeds {} to {}, in {:.1f} s: nothing found\n", done, length, seed,
               seed + done - 1, std::chrono::duration<double>(took).count());
}
