// SPDX-License-Identifier: MIT
// courier watch: follows a recording as it grows, or a live game.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "run_request.hpp"

#include <courier/audit.hpp>
#include <courier/data/json.hpp>
#include <courier/gateway/gateway.hpp>
#include <courier/gateway/run_follower.hpp>
#include <courier/recording/comparison.hpp>
#include <courier/recording/run_builder.hpp>
#include <courier/recording/statistics.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <fstream>
#include <memory>
#include <numeric>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include <unistd.h>

namespace tool {

namespace {

using namespace std::chrono_literals;

constexpr auto longest_silence = std::chrono::seconds(30); ///< of an address at which no game answers

struct watch_request : run_request {
    std::chrono::nanoseconds every = 250ms;
    std::chrono::nanoseconds lasts = 0s; ///< 0: until the recording is finished
};

/// Takes in what is new of a run.
class follower {
public:
    follower() = default;
    follower(const follower&) = delete;
    follower& operator=(const follower&) = delete;
    virtual ~follower() = default;

    /// Whether there was anything new.
    virtual bool take_in() = 0;
    [[nodiscard]] virtual bool over() const { return run_.finished; }
    /// Why nothing at all has come of it; empty: something has.
    [[nodiscard]] virtual std::string nothing_came() const { return {}; }
    /// Whether it is still there, and what is wrong with it.
    [[nodiscard]] virtual std::string state() const { return run_.finished ? "finished" : "still being written"; }
    [[nodiscard]] const courier::run& seen() const noexcept { return run_; }

protected:
    courier::run run_;
};

/// What a growing file has got since the last time.
class file_follower final : public follower {
public:
    explicit file_follower(const std::string& file) : in_(file, std::ios::binary), builder_(run_, file) {
        std::error_code ignored;
        if (std::filesystem::is_directory(file, ignored)) {
            throw courier::recording_error(courier::recording_code::cannot_open, "cannot be read: it is a folder", file,
                                           "name a recording");
        }
        if (!in_) {
            throw courier::recording_error(courier::recording_code::cannot_open, "cannot be read", file,
                                           "name a recording");
        }
    }

    bool take_in() override {
        bool any = false;
        char bytes[1 << 16];
        in_.clear();
        constexpr std::size_t at_once = std::size_t{64} << 20; // so that what never ends cannot keep it
        for (std::size_t sum = 0; sum < at_once && (in_.read(bytes, sizeof bytes), in_.gcount() > 0);) {
            sum += static_cast<std::size_t>(in_.gcount());
            rest_.append(bytes, static_cast<std::size_t>(in_.gcount()));
            std::size_t from = 0;
            for (std::size_t end = rest_.find('\n'); end != std::string::npos; end = rest_.find('\n', from)) {
                builder_.line(std::string_view(rest_).substr(from, end - from));
                from = end + 1;
                any = true;
            }
            rest_.erase(0, from);
            if (rest_.size() > longest_rest) {
                builder_.line(rest_); // which says that it is too long
            }
            in_.clear();
        }
        builder_.done();
        return any;
    }

private:
    static constexpr std::size_t longest_rest = std::size_t{32} << 20; ///< without an end of line

    std::ifstream in_;
    std::string rest_;
    courier::run_builder builder_;
};

/// What a live game tells through its gateway.
class live_follower final : public follower {
public:
    explicit live_follower(const std::string& address) : address_(address), from_(address) { begin_anew(); }

    bool take_in() override {
        const std::vector<std::string> lines = from_.take();
        for (const std::string& line : lines) {
            if (line.find(R"("type":"wired-courier.recording")") != std::string::npos) { // another run
                begin_anew();
            }
            builder_->line(line);
        }
        builder_->done();
        builder_->keep_newest(most_events);
        return !lines.empty();
    }
    [[nodiscard]] bool over() const override { return from_.over(); }
    [[nodiscard]] std::string nothing_came() const override {
        return run_.channels.empty() && run_.events.empty() ? from_.trouble() : std::string();
    }
    [[nodiscard]] std::string state() const override {
        const std::string trouble = from_.trouble();
        const std::string missed = from_.missed() != 0 ? fmt::format(", {} events missed", from_.missed()) : "";
        return (from_.over() ? "over" : trouble.empty() ? "live" : trouble) + missed;
    }

private:
    static constexpr std::size_t most_events = 500'000;

    void begin_anew() {
        run_ = {};
        builder_.emplace(run_, address_, courier::read_options{.joined_late = true});
    }

    std::string address_;
    courier::run_follower from_;
    std::optional<courier::run_builder> builder_;
};

std::unique_ptr<follower> follow(const std::string& what) {
    if (what.starts_with("http://")) {
        return std::make_unique<live_follower>(what);
    }
    return std::make_unique<file_follower>(what);
}

struct screen {
    std::size_t rows = 40;
    std::size_t columns = 140;
};

screen size_of_terminal() {
    return {terminal_rows(), terminal_columns()};
}

void print_channels(const courier::run& seen, const courier::run_filter& filter, std::size_t rows, bool colours) {
    constexpr std::uint32_t stretch = 30; // frames
    print("{}\n", paint(fmt::format("  {:<26}{:>10}{:>12}{:>9}{:>16}", "channel", "published", "deliveries", "unheard",
                                    "last 30 frames"),
                        colour::bold, colours));
    std::size_t shown = 0;
    for (const courier::channel_rate& c : rates_of(seen, filter, stretch).channels) {
        if (shown++ == rows) {
            break;
        }
        print("  {}{:>10}{:>12}{:>9}{:>16}\n", paint(fmt::format("{:<26}", c.channel), colour::cyan, colours),
              c.published, c.deliveries, c.unheard, std::accumulate(c.by_frame.begin(), c.by_frame.end(), 0U));
    }
}

void print_newest(const courier::run& seen, const courier::run_filter& filter, std::size_t rows, std::size_t width) {
    const courier::run_selection selected(seen, filter);
    std::vector<const courier::recorded_event*> newest;
    for (std::size_t i = seen.events.size(); i-- > 0 && newest.size() < rows;) {
        if (selected(seen.events[i])) {
            newest.push_back(&seen.events[i]);
        }
    }
    std::reverse(newest.begin(), newest.end());
    for (const courier::recorded_event* e : newest) {
        print("  {}\n", fitted(in_words(seen, *e), width - 2));
    }
}

void show(const follower& of, const courier::run_filter& filter, bool terminal) {
    const courier::run& seen = of.seen();
    const screen size = terminal ? size_of_terminal() : screen{};
    const bool colours = colours_wanted();
    if (terminal) {
        clear_screen();
    }
    const courier::audit_report report = courier::audit(books_of(seen));
    const double seconds = seen.frame_times.empty() ? 0 : static_cast<double>(seen.frame_times.back()) / 1e9;
    print("{}  frame {}, {:.1f} s of game time, {} events, {}\n\n", paint(seen.file, colour::bold, colours),
          seen.frames(), seconds, seen.events.size(), of.state());
    const std::size_t rows = size.rows > 16 ? size.rows - 12 : 4;
    print_channels(seen, filter, rows * 45 / 100, colours);
    print("\n{}\n", paint("  newest", colour::bold, colours));
    print_newest(seen, filter, rows * 35 / 100, size.columns);
    print("\n{}\n",
          paint(fmt::format("  audit: {}",
                            report.clean() ? "no findings" : fmt::format("{} findings", report.findings.size())),
                colour::bold, colours));
    std::size_t shown = 0;
    for (const courier::finding& f : report.findings) {
        if (shown++ == rows * 20 / 100) {
            break;
        }
        print("  {}\n", fitted(fmt::format("{}: {}", id_of(f.code), f.what), size.columns - 2));
    }
    flush_output();
}

struct told_channel {
    std::string channel;
    std::uint64_t published;
    std::uint64_t deliveries;
    std::uint64_t unheard;
};
struct told_look {
    std::uint32_t frames;
    std::size_t events;
    bool finished;
    std::vector<told_channel> channels;
    std::vector<courier::finding> findings;
};

// One line of JSON for each look.
void show_json(const courier::run& seen, const courier::run_filter& filter) {
    told_look look{seen.frames(), seen.events.size(), seen.finished, {}, {}};
    for (const courier::channel_rate& c : rates_of(seen, filter, 0).channels) {
        look.channels.push_back({c.channel, c.published, c.deliveries, c.unheard});
    }
    look.findings = courier::audit(books_of(seen)).findings;
    print("{}\n", courier::to_json(look));
    flush_output();
}

int run_watch(watch_request& request) {
    read_frames(request);
    const std::unique_ptr<follower> following = follow(request.file);
    const bool terminal = isatty(STDOUT_FILENO) == 1;
    const auto begun = std::chrono::steady_clock::now();
    bool first = true;
    bool told = false; ///< that nobody answers
    for (;;) {
        const bool news = following->take_in();
        const auto waited = std::chrono::steady_clock::now() - begun;
        const bool over = following->over() || (request.lasts != 0s && waited >= request.lasts);
        const std::string why = over || waited >= longest_silence ? following->nothing_came() : std::string();
        constexpr auto soon = std::chrono::seconds(1);
        if (!told && waited >= soon && !following->nothing_came().empty()) {
            told = true;
            say(fmt::format("courier: {}: {}; waiting for {} s at most\n", request.file, following->nothing_came(),
                            request.lasts != 0s ? std::chrono::floor<std::chrono::seconds>(request.lasts).count()
                                                : longest_silence.count()));
        }
        if (!why.empty()) {
            throw courier::gateway_error(courier::gateway_code::no_answer, why, request.file,
                                         "look whether the game runs, and at which port its gateway listens");
        }
        if (request.json && (news || first)) {
            show_json(following->seen(), request.filter);
        } else if (!request.json && (terminal ? news || first : over)) {
            show(*following, request.filter, terminal);
        }
        first = false;
        if (over) {
            return 0;
        }
        std::this_thread::sleep_for(request.every);
    }
}

} // namespace

void add_watch(command_line& to) {
    auto request = std::make_shared<watch_request>();
    option_set options = to.add("watch", "Follow a recording as it grows, or a live game, until it is over",
                                [request] { return run_watch(*request); });
    options.required("FILE", request->file, "A recording, or the address of a gateway, such as http://127.0.0.1:8080/")
        .flag("--json", request->json, "Print JSON, for other tools");
    options.time("--every", request->every, "Between updates", 10ms, 1min)
        .time("--for", request->lasts, "Stop after this time; 0s: when it is finished, or after 30s if no game answers",
              0s, 240h);
    add_filters(options, *request);
    options.examples({"courier watch night.jsonl", "courier watch night.jsonl --who horn --for 60s",
                      "courier watch http://127.0.0.1:8080/"});
}

} // namespace tool
