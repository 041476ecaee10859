// SPDX-License-Identifier: MIT
#include "wiring/run/reach.hpp"

#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// How far a field is from its object's beginning. Nothing is read: only places are
/// asked for, of an object that is not made.
std::uint32_t offset_of(const field_table& table, std::uint32_t index) {
    constexpr std::size_t usual_size = 1024;
    constexpr std::size_t usual_count = 32;
    alignas(std::max_align_t) std::byte usual[usual_size];
    const void* usual_places[usual_count];
    std::vector<std::max_align_t> more;
    std::vector<const void*> more_places;
    const std::byte* room = usual;
    const void** places = usual_places;
    if (table.size > usual_size || table.entries.size() > usual_count) {
        more.resize(table.size / sizeof(std::max_align_t) + 1);
        more_places.resize(table.entries.size());
        room = reinterpret_cast<const std::byte*>(more.data());
        places = more_places.data();
    }
    table.locate(room, places);
    return static_cast<std::uint32_t>(static_cast<const std::byte*>(places[index]) - room);
}

} // namespace

reach::reach(const field_table& table, const field_path& way, bool moves) {
    const field_table* at = &table;
    for (std::size_t i = 0; i < way.size; ++i) {
        const std::uint32_t step = way.steps[i];
        if (i == 0 && moves) {
            moving_ = &table;
            index_ = step;
        } else {
            offset_ += offset_of(*at, step);
        }
        type_ = at->entries[step].type;
        at = type_->fields;
    }
    look_into(*type_);
}

void reach::look_into(const value_type& type) noexcept {
    if (type.kind == value_kind::optional) {
        optional_ = &type;
        type_ = type.inner;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
