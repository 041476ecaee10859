// The parts of a value, as data, for code that reads and writes values of any type.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/value_kind.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// One value of an enumeration.
struct enum_value {
    std::string_view name;
    std::int64_t value;
};

/// As many as there are, one after the other. The standard's own costs every file
/// as much as all the rest of this.
template <class T>
struct listed {
    const T* first = nullptr;
    std::size_t count = 0;

    [[nodiscard]] constexpr std::size_t size() const noexcept { return count; }
    [[nodiscard]] constexpr bool empty() const noexcept { return count == 0; }
    [[nodiscard]] constexpr const T* begin() const noexcept { return first; }
    [[nodiscard]] constexpr const T* end() const noexcept { return first + count; }
    constexpr const T& operator[](std::size_t i) const noexcept { return first[i]; }
};

struct field_table;

/// Made once for each type by `type_of`. What does not belong to the kind is null.
struct value_type {
    value_kind kind = value_kind::other;
    bool is_signed = false;              ///< enumerations: the number behind it
    bool is_plain = false;               ///< may be copied byte by byte
    bool can_write = false;              ///< it, and all in it, can be assigned
    bool borrows = false;                ///< text that somebody else keeps
    std::uint32_t size = 0;              ///< bytes
    std::string_view name;               ///< objects and enumerations: as the compiler writes it
    listed<enum_value> values;           ///< of an enumeration; empty where they are not known
    const value_type* inner = nullptr;   ///< what is counted, of durations; what may be there; items
    const field_table* fields = nullptr; ///< of an object
    double unit = 0;                     ///< of a duration, in seconds

    /// Of texts. Without data when it is a null pointer; false when it does not fit.
    std::string_view (*text)(const void* value) = nullptr;
    bool (*assign)(void* value, std::string_view text) = nullptr;
    /// Of optionals: what is there or null; makes it there; takes it away.
    const void* (*held)(const void* value) = nullptr;
    void* (*hold)(void* value) = nullptr;
    void (*drop)(void* value) = nullptr;
    /// Of lists.
    std::size_t (*count)(const void* list) = nullptr;
    void (*each)(const void* list, void* context, void (*visit)(void* context, const void* item)) = nullptr;
    void (*clear)(void* list) = nullptr;
    /// Adds an item that `fill` has filled, unless that says no; then it does, too.
    bool (*add)(void* list, void* context, bool (*fill)(void* context, void* item)) = nullptr;
};

struct field_entry {
    std::string_view name;
    const value_type* type;
    bool has_default = false; ///< optional, or with an initializer in the struct
};

/// The fields of a struct.
struct field_table {
    std::string_view type; ///< as the compiler writes it
    listed<field_entry> entries;
    /// Writes where they lie in an object, as many as there are entries.
    void (*locate)(const void* object, const void** fields);
    bool can_write;   ///< it can be filled from outside, and its fields lie in it
    std::size_t size; ///< of an object, in bytes
};

/// A value of one of the simple kinds, up to `text`; which one is said by its type.
/// Durations are real, in seconds; enumerations are integers.
union plain_value {
    plain_value() noexcept : integer(0) {}
    bool truth;
    std::int64_t integer;
    std::uint64_t natural;
    double real;
    std::string_view text;
};

/// Reads a value of a simple kind.
[[nodiscard]] plain_value read_plain(const value_type& type, const void* value) noexcept;

/// Writes one; false when it does not fit, and then nothing is changed.
[[nodiscard]] bool write_plain(const value_type& type, void* value, const plain_value& what);

/// The name of an enumeration's value; empty where there is none.
[[nodiscard]] std::string_view name_of_value(const value_type& type, std::int64_t value) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
