#include "recording_check.hpp"

#include <nlohmann/json.hpp>

#include <algorithm>

namespace tool {

namespace {

using courier::value_kind;
using json_value = nlohmann::ordered_json;

const courier::value_shape* shape_of(const courier::catalogue& all, const std::string& name) {
    if (const courier::channel_entry* const one = all.channel(name)) {
        return &one->payload;
    }
    const courier::action_entry* const one = all.action(name);
    return one != nullptr ? &one->parameters : nullptr;
}

bool is_in_range(const json_value& value, const courier::value_shape& shape) {
    if (value.is_number_unsigned()) {
        return value.get<std::uint64_t>() <= shape.most;
    }
    return value.is_number_integer() && shape.kind == value_kind::integer && value.get<std::int64_t>() >= shape.least;
}

std::string misfit_of(const json_value& value, const courier::value_shape& shape, const std::string& path);

std::string misfit_in(const json_value& object, const courier::value_shape& shape, const std::string& path) {
    for (const auto& [name, value] : object.items()) {
        const std::string whole = path.empty() ? name : std::string(path).append(".").append(name);
        const auto field = std::find_if(shape.fields.begin(), shape.fields.end(),
                                        [&key = name](const courier::named_shape& one) { return one.name == key; });
        if (field == shape.fields.end()) {
            return "has no field '" + whole + "'";
        }
        if (std::string why = misfit_of(value, field->shape, whole); !why.empty()) {
            return why;
        }
    }
    for (const courier::named_shape& field : shape.fields) { // as replay() reads it
        if (!object.contains(field.name)) {
            return "lacks '" + (path.empty() ? field.name : std::string(path).append(".").append(field.name)) + "'";
        }
    }
    return {};
}

bool is_of(const json_value& value, const courier::value_shape& shape) {
    switch (shape.kind) {
    case value_kind::truth:
        return value.is_boolean();
    case value_kind::integer:
    case value_kind::natural:
        return is_in_range(value, shape);
    case value_kind::real:
    case value_kind::duration:
        return value.is_number() || value.is_null(); // what is no number is written as null
    case value_kind::text:
        return value.is_string() || value.is_null();
    case value_kind::enumeration:
        return value.is_number() || (value.is_string() && std::find(shape.values.begin(), shape.values.end(),
                                                                    value.get<std::string>()) != shape.values.end());
    default:
        return true;
    }
}

std::string misfit_of(const json_value& value, const courier::value_shape& shape, const std::string& path) {
    if (shape.kind == value_kind::object && value.is_object()) {
        return misfit_in(value, shape, path);
    }
    if (shape.kind == value_kind::list && value.is_array()) {
        for (const json_value& one : value) {
            if (std::string why = misfit_of(one, shape.inner.front(), path); !why.empty()) {
                return why;
            }
        }
        return {};
    }
    if (shape.kind == value_kind::optional) {
        return value.is_null() ? std::string() : misfit_of(value, shape.inner.front(), path);
    }
    const bool is_right =
        shape.kind == value_kind::object || shape.kind == value_kind::list ? false : is_of(value, shape);
    return is_right ? std::string() : "'" + path + "' is " + in_words(shape) + " now";
}

} // namespace

std::vector<recording_misfit> misfits(const courier::run& recorded, const courier::catalogue& before,
                                      const courier::catalogue& after) {
    std::vector<recording_misfit> all;
    const auto count = [&all](const std::string& what) {
        const auto known = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.what == what; });
        known != all.end() ? void(++known->events) : all.push_back({what, 1});
    };
    for (const courier::recorded_event& event : recorded.events) {
        const std::string& name = recorded.channels[event.channel].name;
        if (shape_of(before, name) == nullptr) {
            continue;
        }
        const courier::value_shape* const shape = shape_of(after, name);
        if (shape == nullptr) {
            count("'" + name + "' is gone");
        } else if (event.payload_size != 0) {
            const std::string why = misfit_of(
                json_value::parse(recorded.payloads.substr(event.payload, event.payload_size), nullptr, false), *shape,
                {});
            if (!why.empty()) {
                count(std::string("'").append(name).append("' ").append(why));
            }
        }
    }
    return all;
}

} // namespace tool
