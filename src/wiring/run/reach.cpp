#include "wiring/run/reach.hpp"

#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// How far a field is from its object's beginning. Nothing is read: only places are
/// asked for, of an object that is not made.
std::uint32_t offset_of(const field_table& table, std::uint32_t index) {
    std::vector<std::max_align_t> room(table.size / sizeof(std::max_align_t) + 1);
    std::vector<const void*> places(table.entries.size());
    table.locate(room.data(), places.data());
    return static_cast<std::uint32_t>(static_cast<const std::byte*>(places[index]) -
                                      reinterpret_cast<const std::byte*>(room.data()));
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
