// SPDX-License-Identifier: MIT
#include <courier/detail/base/value_type.hpp>

#include <cmath>
#include <cstring>
#include <limits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

template <class T>
T get(const void* value) noexcept {
    T known;
    std::memcpy(&known, value, sizeof(T));
    return known;
}

std::int64_t read_integer(const void* value, std::size_t size) noexcept {
    switch (size) {
    case 1:
        return get<std::int8_t>(value);
    case 2:
        return get<std::int16_t>(value);
    case 4:
        return get<std::int32_t>(value);
    default:
        return get<std::int64_t>(value);
    }
}

std::uint64_t read_natural(const void* value, std::size_t size) noexcept {
    switch (size) {
    case 1:
        return get<std::uint8_t>(value);
    case 2:
        return get<std::uint16_t>(value);
    case 4:
        return get<std::uint32_t>(value);
    default:
        return get<std::uint64_t>(value);
    }
}

/// The lowest bytes, on machines of either order.
template <class Wide>
void write_bytes(void* into, std::size_t size, Wide from) noexcept {
    switch (size) {
    case 1: {
        const auto narrow = static_cast<std::uint8_t>(from);
        std::memcpy(into, &narrow, size);
        return;
    }
    case 2: {
        const auto narrow = static_cast<std::uint16_t>(from);
        std::memcpy(into, &narrow, size);
        return;
    }
    case 4: {
        const auto narrow = static_cast<std::uint32_t>(from);
        std::memcpy(into, &narrow, size);
        return;
    }
    default:
        std::memcpy(into, &from, size);
    }
}

bool write_integer(void* into, std::size_t size, std::int64_t value) noexcept {
    const std::int64_t most = std::numeric_limits<std::int64_t>::max() >> (64 - 8 * size);
    if (value > most || value < -most - 1) {
        return false;
    }
    write_bytes(into, size, value);
    return true;
}

bool write_natural(void* into, std::size_t size, std::uint64_t value) noexcept {
    if (value > std::numeric_limits<std::uint64_t>::max() >> (64 - 8 * size)) {
        return false;
    }
    write_bytes(into, size, value);
    return true;
}

void write_real(void* into, std::size_t size, double value) noexcept {
    if (size == sizeof(float)) {
        const auto narrow = static_cast<float>(value);
        std::memcpy(into, &narrow, size);
    } else {
        std::memcpy(into, &value, size);
    }
}

bool write_count(const value_type& count, void* into, double value) noexcept {
    if (count.kind == value_kind::real) {
        write_real(into, count.size, value);
        return true;
    }
    const double whole = std::round(value);
    if (!(std::abs(whole) < 9.2e18) || (whole < 0 && count.kind == value_kind::natural)) {
        return false;
    }
    return count.kind == value_kind::natural ? write_natural(into, count.size, static_cast<std::uint64_t>(whole))
                                             : write_integer(into, count.size, static_cast<std::int64_t>(whole));
}

double read_count(const value_type& count, const void* value) noexcept {
    switch (count.kind) {
    case value_kind::integer:
        return static_cast<double>(read_integer(value, count.size));
    case value_kind::natural:
        return static_cast<double>(read_natural(value, count.size));
    default:
        return count.size == sizeof(float) ? static_cast<double>(get<float>(value)) : get<double>(value);
    }
}

} // namespace

plain_value read_plain(const value_type& type, const void* value) noexcept {
    plain_value read;
    switch (type.kind) {
    case value_kind::truth:
        read.truth = *static_cast<const bool*>(value);
        break;
    case value_kind::integer:
        read.integer = read_integer(value, type.size);
        break;
    case value_kind::natural:
        read.natural = read_natural(value, type.size);
        break;
    case value_kind::enumeration:
        read.integer =
            type.is_signed ? read_integer(value, type.size) : static_cast<std::int64_t>(read_natural(value, type.size));
        break;
    case value_kind::real:
        read.real = read_count(type, value);
        break;
    case value_kind::duration:
        read.real = read_count(*type.inner, value) * type.unit;
        break;
    case value_kind::text:
        read.text = type.text(value);
        break;
    default:
        break;
    }
    return read;
}

bool write_plain(const value_type& type, void* value, const plain_value& what) {
    switch (type.kind) {
    case value_kind::truth:
        *static_cast<bool*>(value) = what.truth;
        return true;
    case value_kind::integer:
        return write_integer(value, type.size, what.integer);
    case value_kind::natural:
        return write_natural(value, type.size, what.natural);
    case value_kind::enumeration:
        return type.is_signed ? write_integer(value, type.size, what.integer)
                              : write_natural(value, type.size, static_cast<std::uint64_t>(what.integer));
    case value_kind::real:
        write_real(value, type.size, what.real);
        return true;
    case value_kind::duration:
        return write_count(*type.inner, value, what.real / type.unit);
    case value_kind::text:
        return type.assign != nullptr && type.assign(value, what.text);
    default:
        return false;
    }
}

std::string_view name_of_value(const value_type& type, std::int64_t value) noexcept {
    for (const enum_value& one : type.values) {
        if (one.value == value) {
            return one.name;
        }
    }
    return {};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
