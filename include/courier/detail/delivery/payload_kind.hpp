// What a channel knows of the type that it carries.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/modules.hpp>

#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct payload_kind {
    std::string_view name;     ///< of the type, with its namespaces
    const void* module;        ///< tells which program or shared library holds this
    const field_table* fields; ///< null where they are not known
    /// What is worth recording of a payload; null: all of it.
    const void* (*subject)(const void* payload) = nullptr;
    bool is_empty = false;
    bool is_query = false;
    bool is_internal = false; ///< the library's own errands, which no ledger looks at
    bool is_owned = false;    ///< nothing: what subscribers own besides subscriptions hangs there
};

/// Of a channel on which nothing is published.
inline constexpr payload_kind owned_kind{
    .name = {}, .module = nullptr, .fields = nullptr, .is_empty = true, .is_owned = true};

/// Specialised for what the library itself wraps payloads in.
template <class Payload>
struct kind_traits {
    static constexpr payload_kind make() {
        return {type_name<Payload>(), &module_tag, fields_of<Payload>(), nullptr, std::is_empty_v<Payload>, false,
                requires {typename Payload::courier_errand;
    }
};
}
}
;

// Hidden, so that every shared library has its own and can be unloaded.
template <class Payload>
WIRED_COURIER_HIDDEN inline constexpr payload_kind kind_of = kind_traits<Payload>::make();

} // namespace detail
WIRED_COURIER_NAMESPACE_END
