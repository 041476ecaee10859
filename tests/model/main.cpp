// Random programs, carried out by the library and by the reference; every
// delivery and every receipt must be the same.
#include "library.hpp"
#include "program.hpp"
#include "reference.hpp"
#include "takers.hpp"

#include <courier/fault.hpp>
#include <courier/ledger.hpp>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <optional>
#include <string>
#include <vector>

namespace {

struct result {
    bool same = true;
    std::uint64_t steps = 0;
};

void show_difference(std::uint64_t seed, int length, const std::vector<std::string>& expected,
                     const std::vector<std::string>& observed) {
    const auto [at, other] = std::mismatch(expected.begin(), expected.end(), observed.begin(), observed.end());
    const auto line = at - expected.begin();
    fmt::print("model: difference with seed {}; replay with --seed {} --programs 1 --length {}\n", seed, seed, length);
    for (auto i = std::max<std::ptrdiff_t>(0, line - 25); i < line; ++i) {
        fmt::print("    {}\n", expected[static_cast<std::size_t>(i)]);
    }
    fmt::print("  expected: {}\n  observed: {}\n", at != expected.end() ? *at : "(end)",
               other != observed.end() ? *other : "(end)");
}

bool with_ledger = false;
bool with_takers = false;

result compare(std::uint64_t seed, int length, bool show) {
    model::program for_reference(seed, length);
    model::reference reference(for_reference);
    const auto expected = for_reference.run(reference);

    model::program for_library(seed, length);
    std::vector<std::string> observed;
    bool takers_agree = true;
    {
        std::optional<courier::ledger> overseer;
        if (with_ledger) {
            overseer.emplace("model", courier::ledger_options{.time_every = 3});
            overseer->attach_everything();
        }
        std::optional<model::two_takers> takers;
        if (with_takers) {
            takers.emplace(*overseer);
        }
        model::library library(for_library);
        observed = for_library.run(library);
        takers_agree = !takers || takers->agree();
    }
    bool same = expected == observed && takers_agree;
    if (!same && show) {
        show_difference(seed, length, expected, observed);
    }
    if (model::library::states_alive() != 0) {
        same = false;
        if (show) {
            fmt::print("model: {} captured states leaked with seed {}, length {}\n", model::library::states_alive(),
                       seed, length);
        }
    }
    return {same, for_library.steps()};
}

// The shortest program of this seed that still shows the difference.
int shrink(std::uint64_t seed, int length) {
    int shortest = length;
    for (int shorter = 1; shorter < length; ++shorter) {
        if (!compare(seed, shorter, false).same) {
            shortest = shorter;
            break;
        }
    }
    return shortest;
}

} // namespace

int main(int argc, char** argv) {
    CLI::App app{"Compares the library with a reference on random programs"};
    std::uint64_t seed = 1;
    std::uint64_t steps = 1'000'000;
    std::uint64_t programs = 0;
    int length = 150;
    double seconds = 0;
    app.add_option("--seed", seed, "Seed of the first program; the next one has the next number");
    app.add_option("--steps", steps, "Stop after so many steps");
    app.add_option("--programs", programs, "Stop after so many programs instead");
    app.add_option("--seconds", seconds, "Stop after this many seconds instead");
    app.add_option("--length", length, "Steps from outside per program")->check(CLI::PositiveNumber);
    CLI::Option* const ledger =
        app.add_flag("--ledger", with_ledger, "Let a ledger keep the library's books meanwhile");
    app.add_flag("--takers", with_takers, "Let two take what the ledger tells, one of whom comes and goes")
        ->needs(ledger);
    CLI11_PARSE(app, argc, argv);

    // The programs subscribe alike handlers on purpose.
    courier::set_fault_handler([](const courier::fault&) {});
    const auto begin = std::chrono::steady_clock::now();
    const std::uint64_t first = seed;
    std::uint64_t done = 0;
    for (;; ++seed) {
        const bool enough = programs != 0 ? seed - first >= programs
                            : seconds != 0
                                ? std::chrono::steady_clock::now() - begin > std::chrono::duration<double>(seconds)
                                : done >= steps;
        if (enough) {
            break;
        }
        const result r = compare(seed, length, false);
        done += r.steps;
        if (!r.same) {
            compare(seed, shrink(seed, length), true);
            return 1;
        }
    }
    fmt::print("model: {} steps in {} programs, seeds {} to {}, no difference\n", done, seed - first, first, seed - 1);
    return 0;
}
