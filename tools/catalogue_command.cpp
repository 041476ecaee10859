// SPDX-License-Identifier: MIT
// courier catalogue: what of a program can be wired.
#include "commands.hpp"
#include "output.hpp"
#include "output_file.hpp"
#include "paint.hpp"

#include <courier/wiring/catalogue_file.hpp>
#include <courier/wiring/client.hpp>

#include <night.hpp>

#include <fmt/format.h>

#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace tool {

namespace {

struct catalogue_request {
    std::string file;
    bool json = false;
    std::string client; ///< a folder
};

std::string fields_told(const courier::value_shape& shape) {
    std::string all;
    for (const courier::named_shape& one : shape.fields) {
        all += fmt::format("\n      {:<12}{}", one.name, in_words(one.shape));
    }
    return all;
}

void print_section(const std::string& title, bool colours) {
    print("\n{}\n", paint(title, colour::bold, colours));
}

void print_entry(const std::string& name, const std::string& target_kind, const std::string& more, bool colours) {
    print("  {}{}{}\n", paint(name, colour::cyan, colours),
          target_kind.empty() ? "" : fmt::format(", at a {}", target_kind), more);
}

void print_channels(const courier::catalogue& all, bool colours) {
    print_section("channels: what a wire can wait for", colours);
    for (const courier::channel_entry& one : all.channels) {
        if (!one.is_state) {
            print_entry(one.name, one.target_kind, fields_told(one.payload), colours);
        }
    }
    print_section("states: their changes can be waited for, their values asked for", colours);
    for (const courier::channel_entry& one : all.channels) {
        if (one.is_state) {
            print_entry(one.name, {}, fmt::format("\n      {}", in_words(one.payload.fields.back().shape)), colours);
        }
    }
}

void print_actions(const courier::catalogue& all, bool colours) {
    print_section("actions: what a wire can do", colours);
    for (const courier::action_entry& one : all.actions) {
        std::string more = fields_told(one.parameters);
        if (one.answer.kind != courier::value_kind::other) {
            more += fmt::format("\n      answers {}", in_words(one.answer));
        }
        print_entry(one.name, one.target_kind, more, colours);
    }
    print_section("queries, which only code asks", colours);
    for (const courier::query_entry& one : all.queries) {
        print_entry(one.name, {}, fields_told(one.question), colours);
    }
}

void print_names(const courier::catalogue& all, bool colours) {
    print_section("phases, stages, groups and targets", colours);
    for (const courier::phases_entry& one : all.phases) {
        print_entry(one.name, {}, fmt::format(": {}", fmt::join(one.phases, ", ")), colours);
    }
    for (const std::string& one : all.stages) {
        print_entry(one, {}, ", a stage", colours);
    }
    for (const courier::group_entry& one : all.groups) {
        print_entry(one.name, {}, fmt::format(", a group of {}s", one.kind), colours);
    }
    for (const courier::target_entry& one : all.targets) {
        print_entry(one.name, {}, fmt::format(", a {}", one.kind), colours);
    }
}

void write_client(const courier::catalogue& all, const std::string& folder) {
    const std::pair<const char*, std::string> files[]{{"/client.js", courier::client_script(all)},
                                                      {"/client.d.ts", courier::client_types(all)}};
    for (const auto& [name, text] : files) {
        output_file to(folder + name);
        to.write(text);
        to.close();
        print("{}{}\n", folder, name);
    }
}

int run_catalogue(const catalogue_request& request) {
    const courier::catalogue all =
        request.file.empty() ? reef::night_catalogue() : courier::read_catalogue(request.file);
    if (!request.client.empty()) {
        write_client(all, request.client);
        return 0;
    }
    if (request.json) {
        print("{}", courier::to_asyncapi(all));
        return 0;
    }
    const bool colours = colours_wanted();
    print("{}: {}, {}, {}, {}\n", all.program, counted(all.channels.size(), "channel or state", "channels and states"),
          counted(all.actions.size(), "action"), counted(all.queries.size(), "query", "queries"),
          counted(all.targets.size(), "target"));
    print_channels(all, colours);
    print_actions(all, colours);
    print_names(all, colours);
    return 0;
}

} // namespace

void add_catalogue(command_line& to) {
    auto request = std::make_shared<catalogue_request>();
    to.add("catalogue", "Show what can be wired: in words, or as an AsyncAPI 3.0 document",
           [request] { return run_catalogue(*request); })
        .optional("FILE", request->file, "A catalogue that a program has written; without it, the demo's")
        .flag("--json", request->json, "Print the AsyncAPI document, with JSON Schema for payloads")
        .file("--client", request->client,
              "Write client.js and client.d.ts into this folder: a function for each name, for pages of a gateway")
        .examples({"courier catalogue", "courier catalogue --json > reef.json", "courier catalogue --client hud"});
}

} // namespace tool
