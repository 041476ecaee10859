// SPDX-License-Identifier: MIT
#include "data/cbor_writer.hpp"

#include <nlohmann/json.hpp>

#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

using nlohmann::ordered_json;

ordered_json fields_in(packed_reader& in, const std::vector<schema_node>& known);

ordered_json value_in(packed_reader& in, const schema_node& known) {
    switch (in.take<tag>()) {
    case tag::no:
        return false;
    case tag::yes:
        return true;
    case tag::integer:
        return in.take<std::int64_t>();
    case tag::natural:
        return in.take<std::uint64_t>();
    case tag::real:
        return in.take<double>();
    case tag::text:
        return std::string(in.take_text());
    case tag::list: {
        const auto count = in.take<std::uint32_t>();
        ordered_json all = ordered_json::array();
        for (std::uint32_t i = 0; i < count; ++i) {
            all.push_back(value_in(in, known));
        }
        return all;
    }
    case tag::object:
        return fields_in(in, known.inside);
    case tag::null:
        break;
    }
    return nullptr;
}

ordered_json fields_in(packed_reader& in, const std::vector<schema_node>& known) {
    ordered_json::object_t all; // in the order in which they are declared
    all.reserve(known.size());
    for (const schema_node& one : known) {
        static_cast<std::vector<ordered_json::object_t::value_type>&>(all).emplace_back(one.plain, value_in(in, one));
    }
    return all;
}

} // namespace

std::string cbor_of(packed_reader& in, const std::vector<schema_node>& known) {
    std::string made;
    ordered_json::to_cbor(fields_in(in, known), made);
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
