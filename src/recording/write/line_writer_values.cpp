// How payloads are written: by their schema, value by value.
#include "recording/write/json_text.hpp"
#include "recording/write/line_writer.hpp"

#include <cmath>
#include <iterator>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::vector<schema_node> nodes_of(const std::vector<schema_field>& fields) {
    std::vector<schema_node> all;
    all.reserve(fields.size());
    for (const schema_field& one : fields) {
        all.push_back({quoted_json(one.name) + ":", nodes_of(one.inside)});
    }
    return all;
}

} // namespace

void line_writer::take(const schema_record& what) {
    if (schemas_.size() <= what.number) {
        schemas_.resize(what.number + 1);
    }
    schemas_[what.number] = nodes_of(what.fields);
}

void line_writer::write_value(packed_reader& in, const schema_node* known) {
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
        write_number(in.take<std::uint64_t>());
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
        write_text(in.take_text());
        break;
    case tag::list: {
        const auto count = in.take<std::uint32_t>();
        put("[");
        for (std::uint32_t i = 0; i < count; ++i) {
            put(i == 0 ? "" : ",");
            write_value(in, known);
        }
        put("]");
        break;
    }
    case tag::object:
        static const std::vector<schema_node> nothing;
        write_fields(in, known != nullptr ? known->inside : nothing);
        break;
    }
}

void line_writer::write_fields(packed_reader& in, const std::vector<schema_node>& known) {
    put("{");
    for (std::size_t i = 0; i < known.size(); ++i) {
        put(i == 0 ? "" : ",");
        put(known[i].name);
        write_value(in, &known[i]);
    }
    put("}");
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
