// SPDX-License-Identifier: MIT
#include "data/json_reader.hpp"

#include "data/json_targets.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/data/in_words.hpp>
#include <courier/detail/base/nesting.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/nearest.hpp>

#include <algorithm>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string pointer_part(std::string_view key) {
    std::string made = "/";
    for (const char c : key) {
        c == '~' ? made += "~0" : c == '/' ? made += "~1" : made += c;
    }
    return made;
}

namespace {

using nlohmann::json;

constexpr int deepest_payload = 16; ///< structs and lists inside of one another

/// Where a value is; written out only where something is wrong with it.
struct json_place {
    const json_place* above;
    std::string_view key; ///< of an object
    std::size_t index;    ///< of a list, where there is no key
};

std::string pointer_to(const json_place* at) {
    if (at == nullptr) {
        return {};
    }
    return pointer_to(at->above) +
           (at->key.data() == nullptr ? "/" + std::to_string(at->index) : pointer_part(at->key));
}

std::string json_in_words(const json& value) {
    return value.is_number() ? "the number " + value.dump() : std::string(kind_in_words(value));
}

std::optional<double> number_in(const json& from) {
    if (from.is_number()) {
        return from.get<double>();
    }
    if (!from.is_string()) {
        return std::nullopt;
    }
    const auto& text = from.get_ref<const std::string&>();
    constexpr double infinity = std::numeric_limits<double>::infinity();
    return text == "NaN"         ? std::optional(std::numeric_limits<double>::quiet_NaN())
           : text == "Infinity"  ? std::optional(infinity)
           : text == "-Infinity" ? std::optional(-infinity)
                                 : std::nullopt;
}

std::optional<std::int64_t> whole_number_in(const json& from) {
    if (!from.is_number_integer() ||
        (from.is_number_unsigned() &&
         from.get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max()))) {
        return std::nullopt;
    }
    return from.get<std::int64_t>();
}

/// Walks a JSON value and its target side by side.
template <class Target>
class json_walk {
public:
    json_walk(std::vector<json_fault>& faults, const json_rules& rules, std::string_view below = {})
        : faults_(faults), rules_(rules), below_(below) {}

    void fields(const json& from, const typename Target::field_list& into, const json_place* at, int depth) {
        if (!from.is_object()) {
            fault(json_code::wrong_type, at, "must be an object with fields, but is " + json_in_words(from));
            return;
        }
        for (const auto& [key, value] : from.items()) {
            const json_place here{at, key, 0};
            std::size_t i = 0;
            while (i < into.size() && into.name(i) != key) {
                ++i;
            }
            if (i < into.size()) {
                fill(value, into[i], &here, depth, into.has_default(i));
            } else if (rules_.unknown == unknown_fields::refused) {
                unknown(here, key, into);
            }
        }
        for (std::size_t i = 0; i < into.size() && rules_.missing == missing_fields::refused; ++i) {
            if (!into.has_default(i) && !from.contains(into.name(i))) {
                const json_place here{at, into.name(i), 0};
                missing(here, into[i]);
            }
        }
    }

    void fill(const json& from, const Target& into, const json_place* at, int depth, bool has_default) {
        if (from.is_null()) {
            nothing(from, into, at, has_default);
        } else if (!into.is_writable()) {
            fault(json_code::not_writable, at,
                  "cannot be filled, since it is a view of memory that it does not own, or of an unknown type");
        } else if (into.kind() == value_kind::optional) {
            fill(from, into.held(), at, depth, false);
        } else if (into.kind() == value_kind::object || (into.kind() == value_kind::list && from.is_array())) {
            inside(from, into, at, depth + 1);
        } else {
            simple(from, into, at);
        }
    }

private:
    void inside(const json& from, const Target& into, const json_place* at, int depth) {
        if (depth > deepest_payload) {
            fault(json_code::too_deep, at,
                  "lies more than " + std::to_string(deepest_payload) + " structs and lists deep");
        } else if (into.kind() == value_kind::object) {
            fields(from, into.fields(), at, depth);
        } else {
            std::size_t next = 0;
            into.items(from.size(), [&](const Target& item) {
                const json_place here{at, {}, next};
                fill(from[next++], item, &here, depth, false);
            });
        }
    }

    void nothing(const json& from, const Target& into, const json_place* at, bool has_default) {
        if (into.write_nothing()) {
            return;
        }
        if (rules_.nulls == null_fields::refused) {
            wrong_type(from, into, at);
        } else if (!has_default && rules_.missing == missing_fields::refused) {
            missing(*at, into);
        }
    }

    void simple(const json& from, const Target& into, const json_place* at) {
        plain_value read;
        switch (into.kind()) {
        case value_kind::truth:
            if (!from.is_boolean()) {
                return wrong_type(from, into, at);
            }
            read.truth = from.get<bool>();
            break;
        case value_kind::natural:
            if (!from.is_number_integer()) {
                return wrong_type(from, into, at);
            }
            if (!from.is_number_unsigned()) {
                return out_of_range(from, into, at);
            }
            read.natural = from.get<std::uint64_t>();
            break;
        case value_kind::integer:
            if (!from.is_number_integer()) {
                return wrong_type(from, into, at);
            }
            if (const auto whole = whole_number_in(from)) {
                read.integer = *whole;
                break;
            }
            return out_of_range(from, into, at);
        case value_kind::enumeration:
            if (const auto value = value_in(from, into)) {
                read.integer = *value;
                break;
            }
            return from.is_string() ? unknown_value(from.get<std::string>(), into, at) : wrong_type(from, into, at);
        case value_kind::real:
        case value_kind::duration:
            if (const auto number = number_in(from)) {
                read.real = *number;
                break;
            }
            return wrong_type(from, into, at);
        case value_kind::text:
            if (!from.is_string()) {
                return wrong_type(from, into, at);
            }
            if (!into.write_text(from.get_ref<const std::string&>())) {
                fault(json_code::out_of_range, at, "is a text that is too long");
            }
            return;
        default:
            return wrong_type(from, into, at);
        }
        if (!into.write(read)) {
            out_of_range(from, into, at);
        }
    }

    /// By name, or by number where a value has no name.
    static std::optional<std::int64_t> value_in(const json& from, const Target& into) {
        return from.is_string() ? into.value_named(from.get_ref<const std::string&>()) : whole_number_in(from);
    }

    void unknown(const json_place& at, const std::string& key, const typename Target::field_list& into) {
        std::vector<std::string> names;
        for (std::size_t i = 0; i < into.size(); ++i) {
            names.emplace_back(into.name(i));
        }
        fault(json_code::unknown_field, &at, "is not a field of " + into.type(), did_you_mean(key, names));
    }
    void unknown_value(const std::string& name, const Target& into, const json_place* at) {
        const value_shape& shape = into.shape();
        fault(json_code::unknown_value, at, "must be " + in_words(shape) + ", but is '" + name + "'",
              did_you_mean(name, shape.values));
    }
    void missing(const json_place& at, const Target& into) {
        fault(json_code::missing_field, &at, "is missing; it must be " + in_words(into.shape()));
    }
    void wrong_type(const json& from, const Target& into, const json_place* at) {
        misfit(json_code::wrong_type, from, into, at);
    }
    void out_of_range(const json& from, const Target& into, const json_place* at) {
        misfit(json_code::out_of_range, from, into, at);
    }
    void misfit(json_code code, const json& from, const Target& into, const json_place* at) {
        fault(code, at, "must be " + in_words(into.shape()) + ", but is " + json_in_words(from));
    }
    void fault(json_code code, const json_place* at, std::string what, std::string advice = {}) {
        std::string where = below_ + pointer_to(at);
        faults_.push_back(
            {code, where.empty() ? "the text " + what : std::move(what), std::move(where), std::move(advice)});
    }

    std::vector<json_fault>& faults_;
    const json_rules rules_;
    const std::string below_;
};

} // namespace

std::string_view kind_in_words(const json& value) noexcept {
    return value.is_string()    ? "a text"
           : value.is_boolean() ? "a truth value"
           : value.is_number()  ? "a number"
           : value.is_array()   ? "a list"
           : value.is_object()  ? "an object"
                                : "null";
}

json parsed_json(std::string_view text) {
    return is_too_deep(text, text_format::as_json) ? json(json::value_t::discarded)
                                                   : json::parse(text.begin(), text.end(), nullptr, false);
}

std::vector<json_fault> read_fields(const json& from, const field_table* table, void* object, const json_rules& rules,
                                    kept_texts* texts) {
    std::vector<json_fault> faults;
    if (table != nullptr) {
        json_walk<typed_target>(faults, rules).fields(from, {*table, object, texts}, nullptr, 0);
    } else if (!from.is_object() || (rules.unknown == unknown_fields::refused && !from.empty())) {
        faults.push_back({json_code::unknown_field, "the text must be an object without fields, but has some", {}, {}});
    }
    return faults;
}

std::vector<json_fault> read_value(const json& from, const value_type& type, void* value, const json_rules& rules,
                                   kept_texts* texts, std::string_view below) {
    std::vector<json_fault> faults;
    json_walk<typed_target>(faults, rules, below).fill(from, {type, value, texts}, nullptr, 0, false);
    return faults;
}

std::vector<json_fault> misfits_of(const json& from, const value_shape& shape, const json_rules& rules) {
    std::vector<json_fault> faults;
    json_walk<shaped_target>(faults, rules).fill(from, shaped_target(shape), nullptr, 0, false);
    return faults;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
