// How payloads are written: by their schema, value by value.
#include "recording/write/json_text.hpp"
#include "recording/write/line_writer.hpp"

#include <cmath>
#include <iterator>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::vector<schema_node> take_schema(packed_reader& in) {
    std::vector<schema_node> all(in.take<std::uint32_t>());
    for (schema_node& node : all) {
        node.name = quoted_json(in.take_text()) + ":";
        if (in.take<bool>()) {
            node.inside = take_schema(in);
        }
    }
    return all;
}

} // namespace

void line_writer::schema(packed_reader& in) {
    const auto number_of = in.take<std::uint32_t>();
    if (schemas_.size() <= number_of) {
        schemas_.resize(number_of + 1);
    }
    schemas_[number_of] = take_schema(in);
}

void line_writer::value(packed_reader& in, const schema_node* known) {
    switch (in.take<tag>()) {
    case tag::null:
        put("null");
        break;
    case tag::no:
        put("false");
        break;
    case tag::yes:
        put("true");
        break;
    case tag::integer: {
        const fmt::format_int digits(in.take<std::int64_t>());
        to_->append(digits.data(), digits.data() + digits.size());
        break;
    }
    case tag::natural:
        number(in.take<std::uint64_t>());
        break;
    case tag::real: {
        const auto real = in.take<double>();
        if (std::isfinite(real)) {
            fmt::format_to(std::back_inserter(*to_), "{}", real);
        } else {
            put("null"); // JSON has no other word for it
        }
        break;
    }
    case tag::text:
        text(in.take_text());
        break;
    case tag::list: {
        const auto count = in.take<std::uint32_t>();
        put("[");
        for (std::uint32_t i = 0; i < count; ++i) {
            put(i == 0 ? "" : ",");
            value(in, known);
        }
        put("]");
        break;
    }
    case tag::object:
        static const std::vector<schema_node> nothing;
        members(in, known != nullptr ? known->inside : nothing);
        break;
    }
}

void line_writer::members(packed_reader& in, const std::vector<schema_node>& known) {
    put("{");
    for (std::size_t i = 0; i < known.size(); ++i) {
        put(i == 0 ? "" : ",");
        put(known[i].name);
        value(in, &known[i]);
    }
    put("}");
}

void line_writer::payload(packed_reader& in, std::uint32_t schema) {
    if (schema == empty_schema) {
        put(R"(,"payload":{})");
    } else if (schema != no_schema) {
        put(R"(,"payload":)");
        members(in, schemas_[schema]);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
