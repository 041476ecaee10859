// courier replay: a recorded run once more, compared as it goes.
#include "commands.hpp"
#include "run_request.hpp"

#include <night.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <memory>

namespace tool {

namespace {

int run_replay(const run_request& request) {
    const reef::replayed_night result = reef::replay_night(request.file);
    if (request.json) {
        nlohmann::ordered_json all{{"same", result.events}, {"of", result.of}};
        all["difference"] = result.difference ? nlohmann::ordered_json(*result.difference) : nlohmann::ordered_json();
        fmt::print("{}\n", all.dump(2));
    } else if (result.difference) {
        fmt::print("{} differs {}\n", request.file, *result.difference);
    } else {
        fmt::print("{}: all {} events came again, the same and in the same order\n", request.file, result.of);
    }
    return result.difference ? 1 : 0;
}

} // namespace

command add_replay(CLI::App& app) {
    auto request = std::make_shared<run_request>();
    CLI::App* replay_app = app.add_subcommand(
        "replay", "Run a recorded night once more and stop at the first difference (exit code 1); games of your own "
                  "replay theirs with courier/kit/replay.hpp");
    add_file(*replay_app, *request);
    return [request] { return run_replay(*request); };
}

} // namespace tool
