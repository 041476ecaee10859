// SPDX-License-Identifier: MIT
#include <courier/data/in_words.hpp>
#include <courier/data/json.hpp>
#include <courier/detail/base/stable_id.hpp>

#include "data/json_reader.hpp"
#include "data/json_writer.hpp"
#include "data/pack_value.hpp"
#include "data/words.hpp"

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(json_code code) noexcept {
    return detail::stable_id(code);
}

namespace detail {

namespace {

constexpr field_table no_fields_at_all{"", {}, [](const void*, const void**) {}, true, 1};
constexpr value_type made_without_fields() {
    value_type made;
    made.kind = value_kind::object;
    made.can_write = true;
    made.fields = &no_fields_at_all;
    return made;
}

} // namespace

constinit const value_type empty_struct_type = made_without_fields();

std::string json_of(const value_type& type, const void* value) {
    packed_bytes packed;
    pack_value(type, value, packed);
    const schema_node schema = node_of(type);
    fmt::memory_buffer text;
    packed_reader in(packed.bytes().data(), packed.bytes().data() + packed.size());
    write_value(text, in, &schema);
    return fmt::to_string(text);
}

namespace {

/// Parses a text and looks at what it has.
template <class Look>
std::vector<json_fault> faults_of(std::string_view text, Look look) {
    const nlohmann::json read = parsed_json(text);
    if (read.is_discarded()) {
        return {{json_code::not_json, "the text is not JSON (RFC 8259), or nests more than 64 deep", {}, {}}};
    }
    return look(read);
}

} // namespace

std::vector<json_fault> json_into(std::string_view text, const value_type& type, void* value, const json_rules& rules) {
    return faults_of(text, [&](const nlohmann::json& read) { return read_value(read, type, value, rules); });
}

std::vector<json_fault> fields_into(std::string_view text, const field_table* table, void* object,
                                    const json_rules& rules) {
    return faults_of(text, [&](const nlohmann::json& read) { return read_fields(read, table, object, rules); });
}

std::string words_of(const value_type& type, const void* value) {
    std::string made;
    put_words(type, value, made);
    return made;
}

} // namespace detail

std::vector<json_fault> check_json(std::string_view text, const value_shape& shape, const json_rules& rules) {
    return detail::faults_of(text, [&](const nlohmann::json& read) { return detail::misfits_of(read, shape, rules); });
}

WIRED_COURIER_NAMESPACE_END
