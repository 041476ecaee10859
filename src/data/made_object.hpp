// A value without its type, until it has been used.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Made and destroyed by `Maker`, which stays meanwhile: a payload's, an address's, an action's parameters.
template <class Maker>
class made_object {
public:
    explicit made_object(const Maker& by) : by_(by), object_(by.make()) {}
    made_object(const made_object&) = delete;
    made_object& operator=(const made_object&) = delete;
    ~made_object() { by_.destroy(object_); }
    [[nodiscard]] void* get() const noexcept { return object_; }

private:
    const Maker& by_;
    void* object_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
