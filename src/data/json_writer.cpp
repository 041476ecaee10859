// SPDX-License-Identifier: MIT
#include "data/json_writer.hpp"

#include "data/json_text.hpp"

#include <cmath>
#include <iterator>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void write_text(fmt::memory_buffer& to, std::string_view plain) {
    if (is_plain(plain)) {
        to.push_back('"');
        write_raw(to, plain);
        to.push_back('"');
    } else {
        write_raw(to, quoted_json(plain));
    }
}

void write_number(fmt::memory_buffer& to, std::uint64_t plain) {
    const fmt::format_int digits(plain);
    to.append(digits.data(), digits.data() + digits.size());
}

void write_value(fmt::memory_buffer& to, packed_reader& in, const schema_node* known) {
    switch (in.take<tag>()) {
    case tag::null:
        write_raw(to, "null");
        break;
    case tag::no:
        write_raw(to, "false");
        break;
    case tag::yes:
        write_raw(to, "true");
        break;
    case tag::integer: {
        const fmt::format_int digits(in.take<std::int64_t>());
        to.append(digits.data(), digits.data() + digits.size());
        break;
    }
    case tag::natural:
        write_number(to, in.take<std::uint64_t>());
        break;
    case tag::real: {
        const auto real = in.take<double>();
        if (std::isfinite(real)) {
            fmt::format_to(std::back_inserter(to), "{}", real);
        } else {
            write_text(to, std::isnan(real) ? "NaN" : real < 0 ? "-Infinity" : "Infinity"); // see courier/data/json.hpp
        }
        break;
    }
    case tag::text:
        write_text(to, in.take_text());
        break;
    case tag::list: {
        const auto count = in.take<std::uint32_t>();
        write_raw(to, "[");
        for (std::uint32_t i = 0; i < count; ++i) {
            write_raw(to, i == 0 ? "" : ",");
            write_value(to, in, known);
        }
        write_raw(to, "]");
        break;
    }
    case tag::object:
        static const std::vector<schema_node> nothing;
        write_fields(to, in, known != nullptr ? known->inside : nothing);
        break;
    }
}

void write_fields(fmt::memory_buffer& to, packed_reader& in, const std::vector<schema_node>& known) {
    write_raw(to, "{");
    for (std::size_t i = 0; i < known.size(); ++i) {
        write_raw(to, i == 0 ? "" : ",");
        write_raw(to, known[i].name);
        write_value(to, in, &known[i]);
    }
    write_raw(to, "}");
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
