// SPDX-License-Identifier: MIT
// Catalogues as AsyncAPI 3.0.
#include <courier/wiring/catalogue_file.hpp>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cctype>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using json = nlohmann::ordered_json;

/// Names of components may have these characters only; see "Components Object".
std::string key_of(std::string_view name) {
    std::string key;
    for (const char one : name) {
        if (std::isalnum(static_cast<unsigned char>(one)) != 0 || one == '.' || one == '-') {
            key += one;
        } else if (!key.empty() && key.back() != '_') {
            key += '_';
        }
    }
    return key.empty() ? "_" : key;
}

class asyncapi_writer {
public:
    explicit asyncapi_writer(const catalogue& all) : all_(all) {}

    std::string text() {
        for (const channel_entry& one : all_.channels) {
            if (!one.is_declared) { // or the files would declare it twice
                add_channel(one);
            }
        }
        for (const action_entry& one : all_.actions) {
            if (!one.is_declared) {
                add_action(one);
            }
        }
        for (const query_entry& one : all_.queries) {
            json& operation = add_operation("query", one.name, "receive", one.question, {});
            add_reply(operation, "query", one.name, one.answer);
        }
        json made{{"asyncapi", "3.0.0"},
                  {"info", {{"title", all_.program.empty() ? "program" : all_.program}, {"version", "1"}}},
                  {"defaultContentType", "application/json"},
                  {"channels", std::move(channels_)},
                  {"operations", std::move(operations_)},
                  {"components", {{"messages", std::move(messages_)}, {"schemas", std::move(schemas_)}}}};
        made["x-program"] = all_.program;
        made["x-phases"] = json::object();
        for (const phases_entry& one : all_.phases) {
            made["x-phases"][one.name] = one.phases;
        }
        made["x-stages"] = all_.stages;
        made["x-groups"] = json::array();
        for (const group_entry& one : all_.groups) {
            made["x-groups"].push_back({{"name", one.name}, {"kind", one.kind}});
        }
        made["x-targets"] = json::array();
        for (const target_entry& one : all_.targets) {
            made["x-targets"].push_back({{"name", one.name}, {"kind", one.kind}});
        }
        return made.dump(2) + "\n";
    }

private:
    static json reference(const std::string& path) { return {{"$ref", path}}; }

    /// A schema of its own for each struct and enumeration, by its name.
    json named(const value_shape& shape, json made) {
        const std::string base = key_of(shape.type.empty() ? "nameless" : shape.type);
        for (int number = 1;; ++number) {
            const std::string key = number == 1 ? base : base + "_" + std::to_string(number);
            const auto there = schemas_.find(key);
            if (there == schemas_.end()) {
                schemas_[key] = std::move(made);
            } else if (*there != made) {
                continue;
            }
            return reference("#/components/schemas/" + key);
        }
    }

    /// See courier/data/json.hpp.
    static json real() {
        return {{"anyOf", json::array({json{{"type", "number"}},
                                       json{{"enum", json::array({"NaN", "Infinity", "-Infinity"})}}})}};
    }

    json object_schema(const value_shape& shape) {
        json properties = json::object();
        json required = json::array();
        for (const named_shape& field : shape.fields) {
            properties[field.name] = schema(field.shape);
            if (!field.has_default) {
                required.push_back(field.name);
            }
        }
        json made{{"title", shape.type}, {"type", "object"}, {"properties", std::move(properties)}};
        if (!required.empty()) {
            made["required"] = std::move(required);
        }
        return named(shape, std::move(made));
    }

    json schema(const value_shape& shape) {
        switch (shape.kind) {
        case value_kind::truth:
            return {{"type", "boolean"}};
        case value_kind::integer:
            return {{"type", "integer"}, {"minimum", shape.least}, {"maximum", shape.most}};
        case value_kind::natural:
            return {{"type", "integer"}, {"minimum", 0}, {"maximum", shape.most}};
        case value_kind::real:
            return real();
        case value_kind::duration: {
            json made = real();
            made["description"] = "seconds";
            made["x-unit"] = "s";
            return made;
        }
        case value_kind::text:
            return {{"type", "string"}};
        case value_kind::enumeration:
            return named(shape, {{"title", shape.type}, {"type", "string"}, {"enum", shape.values}});
        case value_kind::object:
            return object_schema(shape);
        case value_kind::optional:
            return {{"anyOf", json::array({schema(shape.inner.front()), json{{"type", "null"}}})}};
        case value_kind::list:
            return {{"type", "array"}, {"items", schema(shape.inner.front())}};
        default:
            return json::object();
        }
    }

    /// A channel with one message, of that shape.
    json& add_channel_of(const std::string& key, const std::string& address, const value_shape& shape) {
        messages_[key] = {{"name", key}, {"payload", schema(shape)}};
        json& made = channels_[key];
        made = {{"address", address}, {"messages", {{"payload", reference("#/components/messages/" + key)}}}};
        if (address.empty()) {
            made["address"] = nullptr;
        }
        return made;
    }

    json& add_operation(const std::string& what, const std::string& name, const char* does, const value_shape& shape,
                        const std::string& target_kind) {
        std::string key = what + "." + key_of(name);
        while (operations_.contains(key)) {
            key += "_";
        }
        json& made = add_channel_of(key, target_kind.empty() ? name : name + "/{target}", shape);
        made["title"] = name;
        if (!target_kind.empty()) {
            json target{{"description", "a " + target_kind}, {"x-kind", target_kind}};
            json names = json::array();
            for (const target_entry& one : all_.targets) {
                if (one.kind == target_kind) {
                    names.push_back(one.name);
                }
            }
            if (!names.empty()) {
                target["examples"] = std::move(names);
            }
            made["parameters"] = {{"target", std::move(target)}};
        }
        const std::string path = "#/channels/" + key;
        json& operation = operations_[key];
        operation = {{"action", does},
                     {"channel", reference(path)},
                     {"messages", json::array({reference(path + "/messages/payload")})},
                     {"x-is", what}};
        return operation;
    }

    void add_channel(const channel_entry& one) {
        add_operation(one.is_state ? "state" : "channel", one.name, "send", one.payload, one.target_kind);
    }

    void add_action(const action_entry& one) {
        json& made = add_operation("action", one.name, "receive", one.parameters, one.target_kind);
        if (!one.announces.empty()) {
            made["x-announces"] = one.announces;
        }
        add_reply(made, "action", one.name, one.answer);
    }

    void add_reply(json& operation, const std::string& what, const std::string& name, const value_shape& answer) {
        if (answer.kind == value_kind::other) {
            return;
        }
        const std::string key = "answer." + what + "." + key_of(name);
        add_channel_of(key, {}, answer);
        const std::string path = "#/channels/" + key;
        operation["reply"] = {{"channel", reference(path)},
                              {"messages", json::array({reference(path + "/messages/payload")})}};
    }

    const catalogue& all_;
    json channels_ = json::object();
    json operations_ = json::object();
    json messages_ = json::object();
    json schemas_ = json::object();
};

} // namespace

std::string to_asyncapi(const catalogue& all) {
    return asyncapi_writer(all).text();
}

WIRED_COURIER_NAMESPACE_END
