// SPDX-License-Identifier: MIT
// courier replay: a recorded run once more, compared as it goes.
#include "commands.hpp"
#include "drawing.hpp"
#include "output.hpp"
#include "run_request.hpp"

#include <recorded_night.hpp>

#include <courier/data/json.hpp>
#include <courier/recording/replay.hpp>
#include <fmt/format.h>

#include <cstdlib>
#include <fstream>
#include <iterator>
#include <memory>
#include <stdexcept>
#include <string>

#include <sys/wait.h>

namespace tool {

namespace {

struct replay_request : run_request {
    std::string with; ///< a command; empty: the demo
};

std::string how_it_ended(int status) {
    if (WIFEXITED(status)) {
        return fmt::format("ended with exit code {}", WEXITSTATUS(status));
    }
    return WIFSIGNALED(status) ? fmt::format("was ended by signal {}", WTERMSIG(status)) : "could not be started";
}

// The program finds the recording, and where its answer goes, in its environment.
courier::replay_outcome run_program(const replay_request& request) {
    static_cast<void>(courier::read_run(request.file, {.payloads = false})); // broken ones are told of here
    const scratch_file answer;
    setenv("WIRED_COURIER_REPLAY", request.file.c_str(), 1);
    setenv("WIRED_COURIER_REPLAY_RESULT", answer.path().c_str(), 1);
    const int code = std::system(request.with.c_str());
    std::ifstream in(answer.path());
    courier::replay_outcome said;
    const std::string text{std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
    if (!courier::from_json(text, said, {.unknown = courier::unknown_fields::passed_over}).empty()) {
        throw std::runtime_error(fmt::format("'{}' {} and did not say what came of the replay; it has to ask "
                                             "courier::replay_wanted(), and to call replay::finish()",
                                             request.with, how_it_ended(code)));
    }
    return said;
}

courier::replay_outcome run_demo(const replay_request& request) {
    const reef::replayed_night night = reef::replay_night(request.file);
    return {night.events, night.of, night.difference.value_or("")};
}

int run_replay(const replay_request& request) {
    const courier::replay_outcome result = request.with.empty() ? run_demo(request) : run_program(request);
    if (request.json) {
        print("{}\n", courier::to_json(result));
    } else if (!result.difference.empty()) {
        print("{} differs {}\n", request.file, result.difference);
    } else {
        print("{}: all {} events came again, the same and in the same order\n", request.file, result.of);
    }
    return result.difference.empty() ? 0 : 1;
}

} // namespace

void add_replay(command_line& to) {
    auto request = std::make_shared<replay_request>();
    option_set options = to.add("replay", "Run a recorded game again; stop at the first difference (exit code 1)",
                                [request] { return run_replay(*request); });
    add_file(options, *request);
    options.text("--with", request->with,
                 "The program that was recorded, as a command; without it, the recording is the demo's");
    options.examples({"courier replay night.jsonl", "courier replay night.jsonl --with './game --headless'"});
}

} // namespace tool
