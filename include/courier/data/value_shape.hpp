// What the values of a type look like, as data.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/value_kind.hpp>

#include <cstdint>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

struct named_shape;

/// What values of a type look like.
struct value_shape {
    value_kind kind = value_kind::other;
    std::string type;                ///< of structs and enumerations: its name
    std::int64_t least = 0;          ///< of integers
    std::uint64_t most = 0;          ///< of integers and naturals
    std::vector<std::string> values; ///< of enumerations, in their order
    std::vector<named_shape> fields; ///< of structs
    std::vector<value_shape> inner;  ///< one: what an optional may hold, a list's items

    friend bool operator==(const value_shape&, const value_shape&);
};

/// "a whole number from 0 to 255", ..., for people.
[[nodiscard]] std::string in_words(const value_shape& shape);

/// A field, and its shape.
struct named_shape {
    std::string name;
    value_shape shape;
    bool has_default = false; ///< may be left out: an optional, or the struct has an initializer

    friend bool operator==(const named_shape&, const named_shape&);
};

WIRED_COURIER_NAMESPACE_END
