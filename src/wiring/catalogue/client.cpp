// SPDX-License-Identifier: MIT
#include <courier/wiring/client.hpp>

#include "client_runtime.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cctype>
#include <cstddef>
#include <iterator>
#include <set>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

/// In plain ASCII, whatever bytes it has.
std::string quoted(const std::string& text) {
    return nlohmann::json(text).dump(-1, ' ', true, nlohmann::json::error_handler_t::replace);
}

/// For a comment, which it does not end.
std::string remark(const std::string& text) {
    std::string made = quoted(text);
    for (std::size_t at = made.find("*/"); at != std::string::npos; at = made.find("*/", at)) {
        made.insert(at + 1, " ");
    }
    return made;
}

/// "barges.moved" is bargesMoved, or BargesMoved behind a prefix.
std::string in_camel_case(std::string_view name, std::string prefix) {
    bool is_next_large = !prefix.empty();
    for (const char one : name) {
        const auto letter = static_cast<unsigned char>(one);
        if (std::isalnum(letter) == 0) {
            is_next_large = !prefix.empty();
        } else if (prefix.empty() && std::isdigit(letter) != 0) {
            prefix += '_';
            prefix += one;
        } else {
            prefix += is_next_large ? static_cast<char>(std::toupper(letter)) : one;
            is_next_large = false;
        }
    }
    return prefix;
}

std::string type_of(const value_shape& shape);

/// A field's name, in quotes where it is no word of the language.
std::string key_of(const std::string& name) {
    const bool is_word = !name.empty() && std::isdigit(static_cast<unsigned char>(name.front())) == 0 &&
                         std::all_of(name.begin(), name.end(), [](char one) {
                             return std::isalnum(static_cast<unsigned char>(one)) != 0 || one == '_';
                         });
    return is_word ? name : quoted(name);
}

/// The fields of an object in braces.
std::string fields_of(const value_shape& shape) {
    std::string all;
    for (const named_shape& one : shape.fields) {
        all += fmt::format("{}{}{}: {}", all.empty() ? " " : "; ", key_of(one.name), one.has_default ? "?" : "",
                           type_of(one.shape));
    }
    return all.empty() ? "{}" : "{" + all + " }";
}

std::string one_of(const std::vector<std::string>& texts) {
    std::vector<std::string> all;
    std::transform(texts.begin(), texts.end(), std::back_inserter(all), &quoted);
    return fmt::format("{}", fmt::join(all, " | "));
}

std::string type_of(const value_shape& shape) {
    switch (shape.kind) {
    case value_kind::truth:
        return "boolean";
    case value_kind::integer:
    case value_kind::natural:
    case value_kind::duration:
        return "number";
    case value_kind::real:
        return R"((number | "NaN" | "Infinity" | "-Infinity"))";
    case value_kind::enumeration:
        return shape.values.empty() ? "number" : "(" + one_of(shape.values) + ")";
    case value_kind::text:
        return "string";
    case value_kind::object:
        return fields_of(shape);
    case value_kind::optional:
        return "(" + type_of(shape.inner.front()) + " | null)";
    case value_kind::list:
        return type_of(shape.inner.front()) + "[]";
    case value_kind::other:
        break;
    }
    return "unknown";
}

/// One exported function.
struct entry {
    std::string script;
    std::string types;
};

class client_writer {
public:
    explicit client_writer(const catalogue& all) : all_(all) {
        for (const channel_entry& one : all.channels) {
            one.is_state ? add_state(one) : add_channel(one);
        }
        for (const action_entry& one : all.actions) {
            add_action(one);
        }
    }

    [[nodiscard]] std::string script() const {
        std::string made = "// Made from the catalogue of " + quoted(all_.program) + "; see client.d.ts beside it.\n";
        made += fmt::format("const values = [{}];\n", fmt::join(values_, ", "));
        made += fmt::format("const settable = [{}];\n", fmt::join(settable_, ", "));
        made += detail::client_runtime;
        for (const entry& one : entries_) {
            made += one.script;
        }
        return made;
    }
    [[nodiscard]] std::string types() const {
        std::string made = "// Made from the catalogue of " + quoted(all_.program) + ".\n";
        made += detail::client_types_runtime;
        for (const entry& one : entries_) {
            made += one.types;
        }
        return made;
    }

private:
    void add_channel(const channel_entry& of) {
        const std::string name = free_name(of.name, "on");
        entries_.push_back(
            {fmt::format("\nexport const {} = (heard) => own.listen({}, heard);\n", name, quoted(of.name)),
             fmt::format("\n/** The channel {}. */\nexport function {}(heard: Hears<{}>): () => void;\n",
                         remark(of.name), name, type_of(of.payload))});
    }
    void add_state(const channel_entry& of) {
        const std::string name = free_name(of.name, "");
        const std::string value = of.payload.fields.empty() ? "unknown" : type_of(of.payload.fields.back().shape);
        values_.push_back(quoted(of.name));
        if (all_.action("set " + of.name) != nullptr) {
            settable_.push_back(quoted(of.name));
        }
        entries_.push_back(
            {fmt::format("\nexport const {} = (shows) => own.show({}, shows);\n", name, quoted(of.name)),
             fmt::format(
                 "\n/** The value {}: now, and each new one. */\nexport function {}(shows: (value: {}) => void): () "
                 "=> void;\n",
                 remark(of.name), name, value)});
    }
    /// A channel that accepts payloads is an action, too, which announces itself alone.
    void add_action(const action_entry& of) {
        const bool publishes = is_channel(of);
        const std::string name = free_name(of.name, "");
        const std::string answer = of.answer.kind == value_kind::other ? "void" : type_of(of.answer);
        entries_.push_back(
            {fmt::format("\nexport const {} = (parameters = {{}}, at) => own.{}({}, parameters, at);\n", name,
                         publishes ? "publish" : "call", quoted(of.name)),
             fmt::format(
                 "\n/** {} {}. Fails with an Error whose message says why. */\nexport function {}(parameters{}: "
                 "{}{}): Promise<{}>;\n",
                 publishes ? "Publishes on" : "The action", remark(of.name), name, needs_parameters(of) ? "" : "?",
                 type_of(of.parameters), target_of(of), answer)});
    }

    static bool is_channel(const action_entry& of) {
        return of.announces.size() == 1 && of.announces.front() == of.name;
    }
    static bool needs_parameters(const action_entry& of) {
        return !of.target_kind.empty() || std::any_of(of.parameters.fields.begin(), of.parameters.fields.end(),
                                                      [](const named_shape& one) { return !one.has_default; });
    }
    [[nodiscard]] std::string target_of(const action_entry& of) const {
        if (of.target_kind.empty()) {
            return is_channel(of) ? ", at?: string" : "";
        }
        std::vector<std::string> names;
        for (const target_entry& one : all_.targets) {
            if (one.kind == of.target_kind) {
                names.push_back(one.name);
            }
        }
        return ", at: " + (names.empty() ? "string" : one_of(names));
    }

    /// Two names may look alike without their dots.
    std::string free_name(std::string_view name, const std::string& prefix) {
        std::string made = in_camel_case(name, prefix);
        while (made.empty() || !taken_.insert(made).second) {
            made += '_';
        }
        return made;
    }

    const catalogue& all_;
    /// The module's own names, and the words of the language (ECMA-262, "Keywords and Reserved Words").
    std::set<std::string> taken_{
        "bind",       "onConnection", "own",    "settable",   "values",    "arguments", "await",  "break",    "case",
        "catch",      "class",        "const",  "continue",   "debugger",  "default",   "delete", "do",       "else",
        "enum",       "eval",         "export", "extends",    "false",     "finally",   "for",    "function", "if",
        "implements", "import",       "in",     "instanceof", "interface", "let",       "new",    "null",     "package",
        "private",    "protected",    "public", "return",     "static",    "super",     "switch", "this",     "throw",
        "true",       "try",          "typeof", "var",        "void",      "while",     "with",   "yield"};
    std::vector<std::string> values_;
    std::vector<std::string> settable_;
    std::vector<entry> entries_;
};

} // namespace

std::string client_script(const catalogue& all) {
    return client_writer(all).script();
}

std::string client_types(const catalogue& all) {
    return client_writer(all).types();
}

WIRED_COURIER_NAMESPACE_END
