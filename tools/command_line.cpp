// SPDX-License-Identifier: MIT
#include "command_line.hpp"
#include "output.hpp"

#include <courier/config.hpp>
#include <courier/nearest.hpp>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <array>
#include <charconv>
#include <cmath>
#include <optional>
#include <string_view>
#include <utility>
#include <vector>

namespace tool {

namespace {

CLI::App& app_in(void* of) {
    return *static_cast<CLI::App*>(of);
}

constexpr std::array<std::pair<std::string_view, std::int64_t>, 5> units{
    {{"h", 3'600'000'000'000}, {"min", 60'000'000'000}, {"s", 1'000'000'000}, {"ms", 1'000'000}, {"us", 1'000}}};

/// "250ms", "1.5s"; a unit is needed.
std::optional<std::chrono::nanoseconds> time_in(const std::string& text) {
    double number = 0;
    const char* const end = text.data() + text.size();
    const auto [stop, error] = std::from_chars(text.data(), end, number);
    for (const auto& [unit, worth] : units) {
        if (error == std::errc{} && std::string_view(stop, static_cast<std::size_t>(end - stop)) == unit &&
            std::abs(number) < 1e6) {
            return std::chrono::nanoseconds(std::llround(number * static_cast<double>(worth)));
        }
    }
    return std::nullopt;
}

/// In the largest unit of which it is a whole number.
std::string time_in_words(std::chrono::nanoseconds time) {
    for (const auto& [unit, worth] : units) {
        if (time.count() != 0 && time.count() % worth == 0) {
            return fmt::format("{}{}", time.count() / worth, unit);
        }
    }
    return "0s";
}

CLI::Validator whole_number(std::int64_t low, std::int64_t high) {
    const std::string range =
        high == INT64_MAX ? fmt::format("from {} on", low) : fmt::format("from {} to {}", low, high);
    return CLI::Validator(
        [=](const std::string& text) {
            std::int64_t value = 0;
            const char* end = text.data() + text.size();
            const auto [stop, error] = std::from_chars(text.data(), end, value);
            const bool fine = error == std::errc{} && stop == end && value >= low && value <= high;
            return fine ? std::string{} : fmt::format("'{}' is not a whole number {}", text, range);
        },
        "");
}

} // namespace

option_set& option_set::required(const char* name, std::string& to, const char* what) {
    app_in(of_).add_option(name, to, what)->required()->option_text("(required)");
    return *this;
}

option_set& option_set::required(const char* name, std::vector<std::string>& to, const char* what) {
    app_in(of_).add_option(name, to, what)->required()->option_text("(required)");
    return *this;
}

option_set& option_set::optional(const char* name, std::string& to, const char* what) {
    app_in(of_).add_option(name, to, what)->option_text("(optional)");
    return *this;
}

option_set& option_set::text(const char* name, std::string& to, const char* what) {
    app_in(of_).add_option(name, to, what);
    return *this;
}

option_set& option_set::file(const char* name, std::string& to, const char* what) {
    app_in(of_).add_option(name, to, what)->option_text("FILE");
    return *this;
}

option_set& option_set::files(const char* name, std::vector<std::string>& to, const char* what) {
    app_in(of_).add_option(name, to, what)->option_text("FILE...");
    return *this;
}

option_set& option_set::range(const char* name, std::string& to, const char* what) {
    app_in(of_).add_option(name, to, what)->option_text("RANGE");
    return *this;
}

option_set& option_set::examples(std::initializer_list<const char*> lines) {
    std::string all = "Try:";
    for (const char* line : lines) {
        all += (all.size() == 4 ? "  " : "\n      ") + std::string{line};
    }
    app_in(of_).footer(all);
    return *this;
}

option_set& option_set::flag(const char* name, bool& to, const char* what) {
    app_in(of_).add_flag(name, to, what);
    return *this;
}

option_set& option_set::number(const char* name, std::function<void(std::int64_t)> take, const std::string& otherwise,
                               const char* what, std::int64_t low, std::int64_t high) {
    app_in(of_)
        .add_option_function<std::int64_t>(name, std::move(take), what)
        ->check(whole_number(low, high))
        ->default_str(otherwise);
    return *this;
}

option_set& option_set::time(const char* name, std::chrono::nanoseconds& to, const char* what,
                             std::chrono::nanoseconds least, std::chrono::nanoseconds most) {
    const auto take = [=, &to](const std::string& text) {
        const std::optional<std::chrono::nanoseconds> read = time_in(text);
        if (!read || *read < least || *read > most) {
            throw CLI::ValidationError(
                name, fmt::format("'{}' is not a time from {} to {}", text, time_in_words(least), time_in_words(most)));
        }
        to = *read;
    };
    app_in(of_).add_option_function<std::string>(name, take, what)->option_text("TIME")->default_str(time_in_words(to));
    return *this;
}

option_set& option_set::hidden() {
    app_in(of_).get_options().back()->group("");
    return *this;
}

usage_error::usage_error(const std::string& what, const std::string& advice)
    : std::invalid_argument(what + "; " + advice + " [courier.tool.usage]") {}

namespace {

std::vector<std::string> options_of(const CLI::App& command) {
    std::vector<std::string> all;
    for (const CLI::Option* one : command.get_options()) {
        if (!one->get_group().empty()) {
            all.push_back(one->get_name());
        }
    }
    return all;
}

} // namespace

struct command_line::parser {
    explicit parser(const char* what) : app(what) {}
    CLI::App app;
    std::vector<std::pair<CLI::App*, command>> commands;

    [[nodiscard]] std::vector<std::string> names() const {
        std::vector<std::string> all;
        all.reserve(commands.size());
        for (const auto& [one, run] : commands) {
            all.push_back(one->get_name());
        }
        return all;
    }
};

command_line::command_line(const char* what, const char* footer) : parser_(std::make_unique<parser>(what)) {
    parser_->app.name("courier");
    parser_->app.get_formatter()->label("SUBCOMMAND", "COMMAND");
    parser_->app.set_version_flag("--version", "courier " WIRED_COURIER_VERSION);
    parser_->app.footer(footer);
    parser_->app.allow_extras();
}

command_line::~command_line() = default;

option_set command_line::add(const char* name, const char* what, command run) {
    CLI::App* const one = parser_->app.add_subcommand(name, what);
    one->group("Commands");
    one->allow_extras();
    parser_->commands.emplace_back(one, std::move(run));
    return option_set(one);
}

int command_line::run(int argc, char** argv) {
    CLI::App& app = parser_->app;
    try {
        app.parse(argc, argv);
    } catch (const CLI::CallForHelp&) {
        print("{}", app.help());
        return 0;
    } catch (const CLI::CallForVersion&) {
        print("{}\n", app.version());
        return 0;
    } catch (const CLI::ParseError& error) {
        throw usage_error(error.what());
    }
    for (const auto& [one, run_it] : parser_->commands) {
        if (const std::vector<std::string> extra = one->remaining(); one->parsed() && !extra.empty()) {
            throw usage_error(fmt::format("'{}' is not an option of 'courier {}'", extra.front(), one->get_name()),
                              courier::did_you_mean(extra.front(), options_of(*one),
                                                    fmt::format("see 'courier {} --help'", one->get_name())));
        }
    }
    if (const std::vector<std::string> extra = app.remaining(true); !extra.empty()) {
        throw usage_error(fmt::format("'{}' is not a command", extra.front()),
                          courier::did_you_mean(extra.front(), parser_->names(), "see 'courier --help'"));
    }
    for (const auto& [one, run_it] : parser_->commands) {
        if (one->parsed()) {
            return run_it();
        }
    }
    throw usage_error(fmt::format("no command is given; there are {}", fmt::join(parser_->names(), ", ")));
}

} // namespace tool
