// From types to what a catalogue tells of them.
#pragma once

#include <courier/detail/base/value_type.hpp>
#include <courier/wiring/catalogue.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

[[nodiscard]] value_shape shape_of(const value_type& type);
/// Of a struct; without fields where they are not known. Of one that is to be filled,
/// texts that somebody else keeps are `other`: nobody would keep them.
[[nodiscard]] value_shape shape_of(const field_table* fields, std::string_view type, bool to_fill = false);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
