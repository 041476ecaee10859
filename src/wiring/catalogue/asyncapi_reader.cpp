// SPDX-License-Identifier: MIT
// AsyncAPI 3.0 as catalogues.
#include <courier/wiring/catalogue_file.hpp>

#include <courier/detail/base/nesting.hpp>

#include <nlohmann/json.hpp>

#include <fstream>
#include <iterator>
#include <set>
#include <string>
#include <system_error>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using json = nlohmann::ordered_json;

constexpr const char* write_again = "write the catalogue again with to_asyncapi()";
constexpr int deepest_schema = 16; ///< schemas inside of schemas
constexpr std::uintmax_t most_bytes = std::uintmax_t{64} << 20;

class asyncapi_reader {
public:
    asyncapi_reader(std::string_view document, std::string_view file) : file_(file) {
        if (detail::is_too_deep(document, detail::text_format::as_json)) {
            throw catalogue_error(catalogue_code::not_a_catalogue,
                                  "lists and objects lie more than " + std::to_string(detail::deepest_nesting) +
                                      " deep in one another",
                                  file_, write_again);
        }
        try {
            all_ = json::parse(document);
        } catch (const json::parse_error& error) {
            throw catalogue_error(catalogue_code::not_json, "not JSON at byte " + std::to_string(error.byte), file_,
                                  write_again);
        }
    }

    catalogue read() {
        if (text(all_, "", "asyncapi").substr(0, 2) != "3.") {
            refuse("/asyncapi", "not an AsyncAPI 3 document");
        }
        catalogue made;
        made.program =
            all_.contains("x-program") ? text(all_, "", "x-program") : text(need(all_, "", "info"), "/info", "title");
        for (const auto& [key, operation] : need(all_, "", "operations").items()) {
            add(made, operation, "/operations/" + key);
        }
        for (const auto& [name, phases] : part("x-phases").items()) {
            made.phases.push_back({name, texts(phases, "/x-phases/" + name)});
        }
        made.stages = texts(part("x-stages"), "/x-stages");
        for (const json& one : part("x-groups")) {
            made.groups.push_back({text(one, "/x-groups", "name"), text(one, "/x-groups", "kind")});
        }
        for (const json& one : part("x-targets")) {
            made.targets.push_back({text(one, "/x-targets", "name"), text(one, "/x-targets", "kind")});
        }
        return made;
    }

private:
    [[noreturn]] void refuse(const std::string& where, const std::string& what) const {
        throw catalogue_error(catalogue_code::not_a_catalogue, what, file_ + "#" + where, write_again);
    }

    const json& need(const json& in, const std::string& where, const char* key) const {
        if (!in.is_object() || !in.contains(key)) {
            refuse(where, std::string("there is no '") + key + "'");
        }
        return in.at(key);
    }
    std::string text(const json& in, const std::string& where, const char* key) const {
        const json& found = need(in, where, key);
        if (!found.is_string()) {
            refuse(where + "/" + key, "must be a text");
        }
        return found.get<std::string>();
    }
    std::vector<std::string> texts(const json& list, const std::string& where) const {
        std::vector<std::string> all;
        for (const json& one : list) {
            if (!one.is_string()) {
                refuse(where, "must be a list of texts");
            }
            all.push_back(one.get<std::string>());
        }
        return all;
    }
    [[nodiscard]] const json& part(const char* key) const {
        static const json nothing = json::object();
        return all_.contains(key) ? all_.at(key) : nothing;
    }

    /// What a reference points to, if it is one.
    const json& follow(const json& from, const std::string& where) const {
        if (!from.is_object() || !from.contains("$ref")) {
            return from;
        }
        const std::string path = text(from, where, "$ref");
        try {
            return all_.at(json::json_pointer(path.empty() ? path : path.substr(1)));
        } catch (const json::exception&) {
            refuse(where + "/$ref", "'" + path + "' is nowhere in this document");
        }
    }

    const json& payload_of(const json& channel, const std::string& where) const {
        const json& messages = need(channel, where, "messages");
        if (!messages.is_object() || messages.empty()) {
            refuse(where + "/messages", "there is no message");
        }
        return need(follow(messages.front(), where + "/messages"), where + "/messages", "payload");
    }

    void add(catalogue& to, const json& operation, const std::string& where) const {
        const std::string what = operation.is_object() && operation.contains("x-is")
                                     ? text(operation, where, "x-is")
                                     : (text(operation, where, "action") == "send" ? "channel" : "action");
        const json& channel = follow(need(operation, where, "channel"), where + "/channel");
        const std::string name = channel.is_object() && channel.contains("title") ? text(channel, where, "title")
                                                                                  : text(channel, where, "address");
        value_shape payload = shape(payload_of(channel, where), where, 0);
        if (payload.kind != value_kind::object) {
            refuse(where, "the payload must be an object");
        }
        value_shape answer;
        if (operation.contains("reply")) {
            answer = shape(payload_of(follow(need(operation.at("reply"), where, "channel"), where), where), where, 0);
        }
        if (what == "query") {
            to.queries.push_back({name, std::move(payload), std::move(answer)});
        } else if (what == "action") {
            action_entry made{name, std::move(payload), kind_of(channel, where), std::move(answer), {}};
            if (operation.contains("x-announces")) {
                made.announces = texts(operation.at("x-announces"), where);
            }
            to.actions.push_back(std::move(made));
        } else if (what == "state" && !is_change(payload)) {
            refuse(where, "a state has 'before' and 'after'");
        } else {
            to.channels.push_back({name, std::move(payload), kind_of(channel, where), what == "state"});
        }
    }

    /// Puts both into their order, which other tools may have changed.
    static bool is_change(value_shape& payload) {
        if (payload.fields.size() == 2 && payload.fields.front().name == "after") {
            std::swap(payload.fields.front(), payload.fields.back());
        }
        return payload.fields.size() == 2 && payload.fields.front().name == "before" &&
               payload.fields.back().name == "after";
    }

    std::string kind_of(const json& channel, const std::string& where) const {
        return channel.contains("parameters")
                   ? text(need(channel.at("parameters"), where + "/parameters", "target"), where, "x-kind")
                   : std::string();
    }

    value_shape shape(const json& given, const std::string& where, int depth) const {
        if (depth > deepest_schema) {
            refuse(where, "schemas lie more than " + std::to_string(deepest_schema) + " deep in one another");
        }
        const json& from = follow(given, where);
        value_shape made;
        if (!from.is_object()) {
            refuse(where, "not a schema");
        }
        if (from.contains("title")) {
            made.type = text(from, where, "title");
        }
        if (from.contains("anyOf")) {
            const json& choices = from.at("anyOf");
            if (!choices.is_array() || choices.empty()) {
                refuse(where + "/anyOf", "must be a list");
            }
            if (choices.back().is_object() && choices.back().contains("enum")) { // a number, or "NaN"
                made.kind = from.contains("x-unit") ? value_kind::duration : value_kind::real;
                return made;
            }
            made.kind = value_kind::optional;
            made.inner.push_back(shape(choices.front(), where, depth + 1));
        } else if (from.contains("enum")) {
            made.kind = value_kind::enumeration;
            made.values = texts(from.at("enum"), where + "/enum");
        } else if (from.contains("type")) {
            of_type(from, text(from, where, "type"), where, depth, made);
        }
        return made;
    }

    void of_type(const json& from, const std::string& type, const std::string& where, int depth,
                 value_shape& made) const {
        if (type == "boolean") {
            made.kind = value_kind::truth;
        } else if (type == "string") {
            made.kind = value_kind::text;
        } else if (type == "number") {
            made.kind = from.contains("x-unit") ? value_kind::duration : value_kind::real;
        } else if (type == "integer") {
            limits(from, where, made);
        } else if (type == "array") {
            made.kind = value_kind::list;
            made.inner.push_back(shape(need(from, where, "items"), where, depth + 1));
        } else if (type == "object") {
            made.kind = value_kind::object;
            if (from.contains("properties")) {
                const std::vector<std::string> required = from.contains("required")
                                                              ? texts(from.at("required"), where + "/required")
                                                              : std::vector<std::string>();
                const std::set<std::string> needed(required.begin(), required.end());
                for (const auto& [name, field] : from.at("properties").items()) {
                    made.fields.push_back({name, shape(field, std::string(where).append("/").append(name), depth + 1),
                                           !needed.contains(name)});
                }
            }
        } else {
            refuse(where, "there is no type '" + type + "'");
        }
    }

    void limits(const json& from, const std::string& where, value_shape& made) const {
        const json& least = need(from, where, "minimum");
        const json& most = need(from, where, "maximum");
        if (!least.is_number_integer() || !most.is_number_unsigned()) {
            refuse(where, "'minimum' and 'maximum' are whole numbers");
        }
        made.least = least.get<std::int64_t>();
        made.most = most.get<std::uint64_t>();
        made.kind = made.least < 0 ? value_kind::integer : value_kind::natural;
    }

    std::string file_;
    json all_;
};

} // namespace

catalogue catalogue_of(std::string_view document, std::string_view file) {
    return asyncapi_reader(document, file).read();
}

catalogue read_catalogue(const std::filesystem::path& file) {
    std::error_code error;
    const std::uintmax_t size = std::filesystem::file_size(file, error);
    std::ifstream in(file, std::ios::binary);
    if (error || !in || size > most_bytes) {
        throw catalogue_error(catalogue_code::cannot_open,
                              error || !in ? "this file cannot be read" : "this file has more than 64 MiB",
                              file.string(), "write one with 'courier catalogue', or with to_asyncapi()");
    }
    return catalogue_of(std::string(std::istreambuf_iterator<char>(in), {}), file.string());
}

WIRED_COURIER_NAMESPACE_END
