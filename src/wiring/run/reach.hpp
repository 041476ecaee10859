// The way to a field of an object whose type is known as data.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/check/plan.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/value_type.hpp>

#include <cstddef>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class reach {
public:
    reach() noexcept = default;
    /// The object itself.
    explicit reach(const value_type& type) noexcept : type_(&type) {}
    /// Fields of fields. `moves`: the first are not where the object is, as those of
    /// changes.
    reach(const field_table& table, const field_path& way, bool moves);

    /// Of the field; of an optional one of what it may hold.
    [[nodiscard]] const value_type& type() const noexcept { return *type_; }
    /// Null when it is optional and not there.
    [[nodiscard]] const void* in(const void* object) const noexcept {
        const auto* base = static_cast<const std::byte*>(object);
        if (moving_ != nullptr) {
            const void* places[2];
            moving_->locate(object, places);
            base = static_cast<const std::byte*>(places[index_]);
        }
        base += offset_;
        return optional_ == nullptr ? base : optional_->held(base);
    }
    /// The same for writing; what is optional is there afterwards.
    [[nodiscard]] void* to_write(void* object) const {
        void* const at = static_cast<std::byte*>(object) + offset_;
        return optional_ == nullptr ? at : optional_->hold(at);
    }
    /// Always so many bytes from where the object begins.
    [[nodiscard]] bool is_fixed() const noexcept { return moving_ == nullptr && optional_ == nullptr; }
    [[nodiscard]] std::uint32_t offset() const noexcept { return offset_; }
    [[nodiscard]] bool is_optional() const noexcept { return optional_ != nullptr; }
    /// Of an optional one: what was there is no more.
    void drop(void* object) const { optional_->drop(static_cast<std::byte*>(object) + offset_); }

private:
    void look_into(const value_type& type) noexcept;

    const field_table* moving_ = nullptr;
    const value_type* type_ = nullptr;
    const value_type* optional_ = nullptr;
    std::uint32_t index_ = 0;
    std::uint32_t offset_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
