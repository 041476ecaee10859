// SPDX-License-Identifier: MIT
// courier changes: what differs between two catalogues, and what that breaks.
#include "commands.hpp"
#include "output.hpp"
#include "paint.hpp"
#include "recording_check.hpp"
#include "wiring_request.hpp"

#include <courier/data/json.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/wiring/catalogue_comparison.hpp>
#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/check.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <string>
#include <vector>

namespace tool {

namespace {

struct changes_request {
    std::string before;
    std::string after;
    std::vector<std::string> wiring;
    std::vector<std::string> recordings;
    bool json = false;
};

struct broken_recording {
    std::string file;
    std::vector<recording_misfit> misfits;
};

struct changes_result {
    std::vector<courier::catalogue_change> changes;
    std::vector<courier::wiring_fault> faults; ///< that were none before
    std::vector<broken_recording> recordings;

    [[nodiscard]] bool breaks() const { return !faults.empty() || !recordings.empty(); }
};

std::vector<courier::wiring_fault> new_faults(const std::vector<std::string>& files, const courier::catalogue& before,
                                              const courier::catalogue& after) {
    if (files.empty()) {
        return {};
    }
    const std::vector<courier::wiring_fault> old = courier::check_wiring(paths_of(files), before).faults;
    std::vector<courier::wiring_fault> now = courier::check_wiring(paths_of(files), after).faults;
    std::erase_if(now, [&](const courier::wiring_fault& one) {
        return std::any_of(old.begin(), old.end(), [&](const courier::wiring_fault& other) {
            return one.code == other.code && one.file == other.file && one.line == other.line &&
                   one.column == other.column;
        });
    });
    return now;
}

changes_result find_changes(const changes_request& request) {
    const courier::catalogue before = courier::read_catalogue(request.before);
    const courier::catalogue after = courier::read_catalogue(request.after);
    changes_result made;
    made.changes = compare(before, after);
    made.faults = new_faults(request.wiring, before, after);
    for (const std::string& file : request.recordings) {
        std::vector<recording_misfit> found = misfits(courier::read_run(file), before, after);
        if (!found.empty()) {
            made.recordings.push_back({file, std::move(found)});
        }
    }
    return made;
}

struct told_changes {
    bool breaks;
    std::vector<courier::catalogue_change> changes;
    std::vector<courier::wiring_fault> wiring;
    std::vector<broken_recording> recordings;
};

void print_text(const changes_request& request, const changes_result& result) {
    const bool colours = colours_wanted();
    for (const courier::catalogue_change& one : result.changes) {
        print("{} {} {}\n", one.may_break ? paint("may break", colour::yellow, colours) : "harmless ",
              paint(one.where, colour::cyan, colours), one.what);
    }
    if (result.changes.empty()) {
        print("nothing has changed\n");
    }
    if (!request.wiring.empty()) {
        print("\nwiring: {}\n", result.faults.empty() ? "nothing of it breaks" : "breaks here");
        for (const courier::wiring_fault& one : result.faults) {
            print("{}\n", one.picture());
        }
    }
    if (!request.recordings.empty()) {
        print("\nrecordings: {}\n", result.recordings.empty() ? "nothing of them breaks" : "break here");
        for (const broken_recording& one : result.recordings) {
            for (const recording_misfit& misfit : one.misfits) {
                print("{}: {} ({})\n", one.file, misfit.what, counted(misfit.events, "event"));
            }
        }
    }
}

int run_changes(const changes_request& request) {
    const changes_result result = find_changes(request);
    if (request.json) {
        print("{}\n",
              courier::to_json(told_changes{result.breaks(), result.changes, result.faults, result.recordings}));
    } else {
        print_text(request, result);
    }
    return result.breaks() ? 1 : 0;
}

} // namespace

void add_changes(command_line& to) {
    auto request = std::make_shared<changes_request>();
    to.add("changes", "Compare two catalogues; exit code 1 if wiring or recordings that are named break",
           [request] { return run_changes(*request); })
        .required("BEFORE", request->before, "A catalogue, as the program wrote it")
        .required("AFTER", request->after, "A later one")
        .files("--wiring", request->wiring, "Wiring files that were right with BEFORE")
        .files("--recording", request->recordings, "Recordings made with BEFORE")
        .flag("--json", request->json, "Print JSON, for other tools")
        .examples({"courier changes old.json new.json",
                   "courier changes old.json new.json --wiring demo/reef.toml --recording night.jsonl"});
}

} // namespace tool
