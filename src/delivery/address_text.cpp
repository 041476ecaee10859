// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/address_text.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void append_enum(const value_type& type, std::int64_t value, std::string& to) {
    const std::string_view name = name_of_value(type, value);
    name.empty() ? append_number(value, to) : append_text(name, to);
}

void append_text(std::string_view text, std::string& to) {
    to += text;
}

void append_number(std::int64_t number, std::string& to) {
    to += std::to_string(number);
}

void append_number(std::uint64_t number, std::string& to) {
    to += std::to_string(number);
}

void append_number(double number, std::string& to) {
    to += std::to_string(number);
}

void append_bytes(const void* from, std::size_t count, std::string& to) {
    constexpr char digits[] = "0123456789abcdef";
    const auto* const bytes = static_cast<const unsigned char*>(from);
    to += "0x";
    for (std::size_t i = 0; i < count; ++i) {
        to += digits[bytes[i] >> 4];
        to += digits[bytes[i] & 15];
    }
}

void append_group(std::size_t members, std::string& to) {
    to += "a group of " + std::to_string(members);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
