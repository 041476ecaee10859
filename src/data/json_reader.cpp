#include "data/json_reader.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/data/in_words.hpp>
#include <courier/detail/base/nearest.hpp>
#include <courier/detail/base/nesting.hpp>
#include <courier/detail/base/type_name.hpp>

#include <algorithm>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

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
    std::string made = pointer_to(at->above) + "/";
    if (at->key.data() == nullptr) {
        return made + std::to_string(at->index);
    }
    for (const char c : at->key) {
        c == '~' ? made += "~0" : c == '/' ? made += "~1" : made += c;
    }
    return made;
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

/// A value in memory, to be filled.
class typed_target {
public:
    typed_target(const value_type& type, void* value, kept_texts* texts) : type_(&type), value_(value), texts_(texts) {}

    [[nodiscard]] value_kind kind() const noexcept { return type_->kind; }
    [[nodiscard]] bool is_writable() const noexcept {
        return type_->can_write && (!type_->borrows || texts_ != nullptr);
    }
    [[nodiscard]] value_shape shape() const { return shape_of(*type_); }
    [[nodiscard]] std::optional<std::int64_t> value_named(const std::string& name) const {
        const auto* const found =
            std::find_if(type_->values.begin(), type_->values.end(), [&](const auto& v) { return v.name == name; });
        return found != type_->values.end() ? std::optional(found->value) : std::nullopt;
    }
    [[nodiscard]] bool write(const plain_value& what) const { return write_plain(*type_, value_, what); }
    [[nodiscard]] bool write_text(const std::string& text) const {
        return type_->assign(value_, type_->borrows ? texts_->keep(text) : std::string_view(text));
    }
    /// Whether there is a word for null: an empty optional, or a view of no text.
    [[nodiscard]] bool write_nothing() const {
        if (kind() == value_kind::optional) {
            type_->drop(value_);
            return true;
        }
        return kind() == value_kind::other || (type_->borrows && type_->assign(value_, std::string_view()));
    }
    [[nodiscard]] typed_target held() const { return {*type_->inner, type_->hold(value_), texts_}; }

    template <class Fill>
    void items(std::size_t count, Fill fill) const {
        struct next_item {
            Fill& fill;
            const value_type& type;
            kept_texts* texts;
        } next{fill, *type_->inner, texts_};
        type_->clear(value_);
        for (std::size_t i = 0; i < count; ++i) {
            type_->add(value_, &next, [](void* context, void* item) {
                const auto& known = *static_cast<const next_item*>(context);
                known.fill(typed_target(known.type, item, known.texts));
                return true;
            });
        }
    }

    /// The fields of a struct.
    class field_list {
    public:
        field_list(const field_table& table, void* object, kept_texts* texts)
            : table_(&table), places_(table.entries.size()), texts_(texts) {
            table.locate(object, places_.data());
        }
        [[nodiscard]] std::size_t size() const noexcept { return places_.size(); }
        [[nodiscard]] std::string_view name(std::size_t i) const { return table_->entries[i].name; }
        [[nodiscard]] bool has_default(std::size_t i) const { return table_->entries[i].has_default; }
        [[nodiscard]] typed_target operator[](std::size_t i) const {
            return {*table_->entries[i].type, const_cast<void*>(places_[i]), texts_};
        }
        [[nodiscard]] std::string type() const { return plain_type_name(table_->type); }

    private:
        const field_table* table_;
        std::vector<const void*> places_;
        kept_texts* texts_;
    };
    [[nodiscard]] field_list fields() const { return {*type_->fields, value_, texts_}; }

private:
    const value_type* type_;
    void* value_;
    kept_texts* texts_;
};

/// A shape, which is compared only.
class shaped_target {
public:
    explicit shaped_target(const value_shape& shape) : shape_(&shape) {}

    [[nodiscard]] value_kind kind() const noexcept { return shape_->kind; }
    [[nodiscard]] bool is_writable() const noexcept { return kind() != value_kind::other; }
    [[nodiscard]] const value_shape& shape() const noexcept { return *shape_; }
    [[nodiscard]] std::optional<std::int64_t> value_named(const std::string& name) const {
        const auto found = std::find(shape_->values.begin(), shape_->values.end(), name);
        return found != shape_->values.end() ? std::optional(found - shape_->values.begin()) : std::nullopt;
    }
    [[nodiscard]] bool write(const plain_value& what) const noexcept {
        switch (kind()) {
        case value_kind::integer:
            return what.integer >= shape_->least &&
                   (what.integer < 0 || static_cast<std::uint64_t>(what.integer) <= shape_->most);
        case value_kind::natural:
            return what.natural <= shape_->most;
        default:
            return true;
        }
    }
    [[nodiscard]] static bool write_text(const std::string&) noexcept { return true; }
    // A recorded null in a text is a view of no text; a text that owns what it holds was never null.
    [[nodiscard]] bool write_nothing() const noexcept {
        return kind() == value_kind::optional || kind() == value_kind::other || kind() == value_kind::text;
    }
    [[nodiscard]] shaped_target held() const { return shaped_target(shape_->inner.front()); }
    template <class Fill>
    void items(std::size_t count, Fill fill) const {
        for (std::size_t i = 0; i < count; ++i) {
            fill(held());
        }
    }

    class field_list {
    public:
        explicit field_list(const value_shape& of) : of_(&of) {}
        [[nodiscard]] std::size_t size() const noexcept { return of_->fields.size(); }
        [[nodiscard]] const std::string& name(std::size_t i) const { return of_->fields[i].name; }
        [[nodiscard]] bool has_default(std::size_t i) const { return of_->fields[i].has_default; }
        [[nodiscard]] shaped_target operator[](std::size_t i) const { return shaped_target(of_->fields[i].shape); }
        [[nodiscard]] const std::string& type() const noexcept { return of_->type; }

    private:
        const value_shape* of_;
    };
    [[nodiscard]] field_list fields() const { return field_list(*shape_); }

private:
    const value_shape* shape_;
};

/// Walks a JSON value and its target side by side.
template <class Target>
class json_walk {
public:
    json_walk(std::vector<json_fault>& faults, const json_rules& rules) : faults_(faults), rules_(rules) {}

    void fields(const json& from, const typename Target::field_list& into, const json_place* at, int depth) {
        if (!from.is_object()) {
            fault(json_fault_kind::wrong_type, at,
                  "is " + json_in_words(from) + ", where an object with fields belongs");
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
            fault(json_fault_kind::not_writable, at,
                  "cannot be filled: it is a view of memory that it does not own, or of an unknown type");
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
            fault(json_fault_kind::too_deep, at,
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
                fault(json_fault_kind::out_of_range, at, "is too long a text");
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
        fault(json_fault_kind::unknown_field, &at, "is no field of " + into.type(), nearest_of(key, names));
    }
    void unknown_value(const std::string& name, const Target& into, const json_place* at) {
        const value_shape& shape = into.shape();
        fault(json_fault_kind::unknown_value, at, "is '" + name + "', where " + in_words(shape) + " belongs",
              nearest_of(name, shape.values));
    }
    void missing(const json_place& at, const Target& into) {
        fault(json_fault_kind::missing_field, &at, "is missing; it is " + in_words(into.shape()));
    }
    void wrong_type(const json& from, const Target& into, const json_place* at) {
        misfit(json_fault_kind::wrong_type, from, into, at);
    }
    void out_of_range(const json& from, const Target& into, const json_place* at) {
        misfit(json_fault_kind::out_of_range, from, into, at);
    }
    void misfit(json_fault_kind kind, const json& from, const Target& into, const json_place* at) {
        fault(kind, at, "is " + json_in_words(from) + ", where " + in_words(into.shape()) + " belongs");
    }
    void fault(json_fault_kind kind, const json_place* at, std::string what, std::string nearest = {}) {
        faults_.push_back({kind, pointer_to(at), std::move(what), std::move(nearest)});
    }

    std::vector<json_fault>& faults_;
    const json_rules rules_;
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
        faults.push_back({json_fault_kind::unknown_field, "", "has fields, where an empty object belongs", {}});
    }
    return faults;
}

std::vector<json_fault> read_value(const json& from, const value_type& type, void* value, const json_rules& rules,
                                   kept_texts* texts) {
    std::vector<json_fault> faults;
    json_walk<typed_target>(faults, rules).fill(from, {type, value, texts}, nullptr, 0, false);
    return faults;
}

std::vector<json_fault> misfits_of(const json& from, const value_shape& shape, const json_rules& rules) {
    std::vector<json_fault> faults;
    json_walk<shaped_target>(faults, rules).fill(from, shaped_target(shape), nullptr, 0, false);
    return faults;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
