// The one owner of an object. The standard's own comes with <memory>, which
// costs every file that includes it as much as half of this library.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <concepts>
#include <cstddef>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct delete_it {
    template <class T>
    void operator()(T* object) const noexcept {
        delete object;
    }
};

/// `End` is what destroys it.
template <class T, class End = delete_it>
class owned {
public:
    owned() noexcept = default;
    owned(std::nullptr_t) noexcept {}
    explicit owned(T* object) noexcept : object_(object) {}
    owned(owned&& other) noexcept : object_(other.release()) {}
    template <std::derived_from<T> Derived>
    owned(owned<Derived, End>&& other) noexcept : object_(other.release()) {}
    owned& operator=(owned other) noexcept {
        std::swap(object_, other.object_);
        return *this;
    }
    ~owned() { reset(); }

    void reset(T* object = nullptr) noexcept {
        if (T* const before = std::exchange(object_, object); before != nullptr) {
            End()(before);
        }
    }
    T* release() noexcept { return std::exchange(object_, nullptr); }
    [[nodiscard]] T* get() const noexcept { return object_; }
    T& operator*() const noexcept { return *object_; }
    T* operator->() const noexcept { return object_; }
    explicit operator bool() const noexcept { return object_ != nullptr; }
    friend bool operator==(const owned& a, std::nullptr_t) noexcept { return a.object_ == nullptr; }

private:
    T* object_ = nullptr;
};

template <class T, class... Arguments>
owned<T> make_owned(Arguments&&... arguments) {
    return owned<T>(new T(std::forward<Arguments>(arguments)...));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
