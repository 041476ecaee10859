// Groups without the type of their members.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/group.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class group_source {
public:
    group_source() = default;
    group_source(const group_source&) = delete;
    group_source& operator=(const group_source&) = delete;
    virtual ~group_source() = default;

    [[nodiscard]] virtual bool is_there() const noexcept = 0;
    [[nodiscard]] virtual bool has(const void* address) const = 0;
    /// Calls `visit` with all that are members now but `except`, which may be null.
    virtual void each(const void* except, void* context, void (*visit)(void* context, const void* address)) const = 0;

    std::string name;
    std::string_view address_type;
    std::uint64_t address_key = 0;
};

template <class Address>
class group_source_of final : public group_source {
public:
    explicit group_source_of(const group<Address>& of) : core_(access::kept_core(of)) {
        name = of.name();
        address_type = type_name<Address>();
        address_key = key_of_type<Address>();
    }
    [[nodiscard]] bool is_there() const noexcept override { return core_->owner != nullptr; }
    [[nodiscard]] bool has(const void* address) const override {
        return is_there() && core_->owner->has(*static_cast<const Address*>(address));
    }
    void each(const void* except, void* context, void (*visit)(void*, const void*)) const override {
        if (!is_there()) {
            return;
        }
        for (const Address& one : core_->owner->members()) { // a copy: what is called may change the group
            if (except == nullptr || !(one == *static_cast<const Address*>(except))) {
                visit(context, &one);
            }
        }
    }

private:
    held<group_core<Address>> core_; ///< the group may end first
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
