// SPDX-License-Identifier: MIT
// courier stub: the handler, action or answerer in C++ that a name of the catalogue wants.
#include "commands.hpp"
#include "output.hpp"

#include <courier/nearest.hpp>
#include <courier/wiring/catalogue_file.hpp>

#include <night.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cstddef>
#include <memory>
#include <string>
#include <vector>

namespace tool {

namespace {

struct stub_request {
    std::string name;
    std::string catalogue;
};

/// "wyrms.sighted" is wyrms_sighted, and "reef::DepthAsked" DepthAsked.
std::string in_code(const std::string& name) {
    const std::size_t space = name.rfind("::");
    std::string made;
    for (const char one : name.substr(space == std::string::npos ? 0 : space + 2)) {
        if (std::isalnum(static_cast<unsigned char>(one)) != 0) {
            made += one;
        } else if (!made.empty() && made.back() != '_') { // two in a row are the compiler's
            made += '_';
        }
    }
    return made;
}

std::string whole_number(const courier::value_shape& shape) {
    const bool has_sign = shape.kind == courier::value_kind::integer;
    const int bits = shape.most <= (has_sign ? 127U : 255U)                 ? 8
                     : shape.most <= (has_sign ? 32767U : 65535U)           ? 16
                     : shape.most <= (has_sign ? 2147483647U : 4294967295U) ? 32
                                                                            : 64;
    return has_sign && bits == 32 ? "int" : fmt::format("std::{}int{}_t", has_sign ? "" : "u", bits);
}

std::string type_of(const courier::value_shape& shape) {
    switch (shape.kind) {
    case courier::value_kind::truth:
        return "bool";
    case courier::value_kind::integer:
    case courier::value_kind::natural:
        return whole_number(shape);
    case courier::value_kind::real:
        return "double";
    case courier::value_kind::text:
        return "std::string";
    case courier::value_kind::duration:
        return "courier::game_time";
    case courier::value_kind::optional:
        return "std::optional<" + type_of(shape.inner.front()) + ">";
    case courier::value_kind::list:
        return "std::vector<" + type_of(shape.inner.front()) + ">";
    default:
        return shape.type.empty() ? "auto" : shape.type;
    }
}

void print_head(const std::string& what, const std::string& name, const courier::value_shape& payload) {
    print("// The {} {}{}\n", what, name, payload.fields.empty() ? "" : ":");
    for (const courier::named_shape& one : payload.fields) {
        print("//   {:<12}{}\n", one.name, in_words(one.shape));
    }
}

void print_channel(const courier::channel_entry& of) {
    const std::string code = in_code(of.name);
    if (of.is_state) {
        const std::string value = of.payload.fields.empty() ? "auto" : type_of(of.payload.fields.back().shape);
        print_head("state", of.name, {});
        print("void on_{}(const courier::change<{}>& change); // change.before(), change.after()\n\n", code, value);
    } else {
        print_head(of.target_kind.empty() ? "channel" : "channel of one " + of.target_kind + " or all", of.name,
                   of.payload);
        print("void on_{}({}const {}& payload);\n\n", code, of.target_kind.empty() ? "" : "const auto& whom, ",
              type_of(of.payload));
    }
    print("in_.subscribe<&Class::on_{}>({}, *this); // in_ is a courier::subscriber, the last member\n", code, code);
}

void print_action(const courier::action_entry& of) {
    const std::string code = in_code(of.name);
    const std::string answer =
        of.answer.kind == courier::value_kind::other ? "void" : "courier::outcome<" + type_of(of.answer) + ">";
    print_head("action", of.name, of.parameters);
    const bool is_bare = of.parameters.fields.empty();
    print("{} {}({});\n\n", answer, code, is_bare ? "" : fmt::format("const {}& parameters", type_of(of.parameters)));
    print("wires.action{}(in_, \"{}\", {}[this]{} {{ return {}({}); }});\n",
          is_bare ? "" : "<" + type_of(of.parameters) + ">", of.name, of.target_kind.empty() ? "" : "address, ",
          is_bare ? "" : fmt::format("(const {}& p)", type_of(of.parameters)), code, is_bare ? "" : "p");
}

void print_query(const courier::query_entry& of) {
    const std::string code = in_code(of.name);
    print_head("query", of.name, of.question);
    print("std::optional<{}> answer_{}(const {}& question); // empty: no answer\n\n", type_of(of.answer), code,
          type_of(of.question));
    print("in_.answer(asked, [this](const {}& q) {{ return answer_{}(q); }}); // asked is the query\n",
          type_of(of.question), code);
}

[[noreturn]] void refuse(const courier::catalogue& all, const std::string& name) {
    std::vector<std::string> names;
    const auto add = [&names](const auto& entries) {
        for (const auto& one : entries) {
            names.push_back(one.name);
        }
    };
    add(all.channels);
    add(all.actions);
    add(all.queries);
    throw usage_error(fmt::format("there is no channel, state, action or query '{}'", name),
                      courier::did_you_mean(name, names, "'courier catalogue' lists them all"));
}

int run_stub(const stub_request& request) {
    const courier::catalogue all =
        request.catalogue.empty() ? reef::night_catalogue() : courier::read_catalogue(request.catalogue);
    const auto query = std::find_if(all.queries.begin(), all.queries.end(),
                                    [&](const courier::query_entry& one) { return one.name == request.name; });
    if (const courier::channel_entry* channel = all.channel(request.name); channel != nullptr) {
        print_channel(*channel);
    } else if (const courier::action_entry* action = all.action(request.name); action != nullptr) {
        print_action(*action);
    } else if (query != all.queries.end()) {
        print_query(*query);
    } else {
        refuse(all, request.name);
    }
    return 0;
}

} // namespace

void add_stub(command_line& to) {
    auto request = std::make_shared<stub_request>();
    option_set options = to.add("stub", "Print the C++ handler that a name of the catalogue wants",
                                [request] { return run_stub(*request); });
    options.required("NAME", request->name, "A channel, state, action or query")
        .file("--catalogue", request->catalogue, "A catalogue that a program has written; without it, the demo's")
        .examples({"courier stub wyrms.sighted", "courier stub bell.ring --catalogue catalogue.json"});
}

} // namespace tool
