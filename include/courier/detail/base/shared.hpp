// An object that several threads own together. As detail/owned.hpp: the
// standard's own comes with <memory>, which costs more than all else of this.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <atomic>
#include <cstddef>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Beside the object, since weak owners may outlive it.
struct share_counts {
    std::atomic<std::size_t> owners{1};
    std::atomic<std::size_t> watchers{1}; ///< weak ones, and one for all the owners
};

template <class T>
class weak;

/// Counts are safe from any thread; one object of this class is for one thread
/// at a time.
template <class T>
class shared {
public:
    shared() noexcept = default;
    /// Takes an object that nobody owns yet; deletes it if that fails.
    explicit shared(T* object) : object_(object) {
        struct guard {
            T* object;
            ~guard() { delete object; }
        } kept{object};
        counts_ = new share_counts;
        kept.object = nullptr;
    }
    shared(const shared& other) noexcept : object_(other.object_), counts_(other.counts_) {
        if (counts_ != nullptr) {
            counts_->owners.fetch_add(1, std::memory_order_relaxed);
        }
    }
    shared(shared&& other) noexcept
        : object_(std::exchange(other.object_, nullptr)), counts_(std::exchange(other.counts_, nullptr)) {}
    shared& operator=(shared other) noexcept {
        std::swap(object_, other.object_);
        std::swap(counts_, other.counts_);
        return *this;
    }
    ~shared() {
        if (counts_ != nullptr && counts_->owners.fetch_sub(1, std::memory_order_acq_rel) == 1) {
            delete object_;
            weak<T>::release(counts_);
        }
    }

    T& operator*() const noexcept { return *object_; }
    T* operator->() const noexcept { return object_; }
    friend bool operator==(const shared& a, std::nullptr_t) noexcept { return a.object_ == nullptr; }

private:
    friend class weak<T>;
    shared(T* object, share_counts* counts) noexcept : object_(object), counts_(counts) {}

    T* object_ = nullptr;
    share_counts* counts_ = nullptr;
};

/// Knows an object without keeping it alive.
template <class T>
class weak {
public:
    weak(const shared<T>& of) noexcept
        : object_(of.object_), counts_(of.counts_) { // NOLINT(google-explicit-constructor)
        counts_->watchers.fetch_add(1, std::memory_order_relaxed);
    }
    weak(weak&& other) noexcept : object_(other.object_), counts_(std::exchange(other.counts_, nullptr)) {}
    weak& operator=(weak other) noexcept {
        std::swap(object_, other.object_);
        std::swap(counts_, other.counts_);
        return *this;
    }
    ~weak() {
        if (counts_ != nullptr) {
            release(counts_);
        }
    }

    [[nodiscard]] bool expired() const noexcept { return counts_->owners.load(std::memory_order_acquire) == 0; }
    /// An owner, or none if the object is gone.
    [[nodiscard]] shared<T> lock() const noexcept {
        std::size_t owners = counts_->owners.load(std::memory_order_relaxed);
        while (owners != 0) {
            if (counts_->owners.compare_exchange_weak(owners, owners + 1, std::memory_order_acquire,
                                                      std::memory_order_relaxed)) {
                return shared<T>(object_, counts_);
            }
        }
        return {};
    }

private:
    friend class shared<T>;
    static void release(share_counts* counts) noexcept {
        if (counts->watchers.fetch_sub(1, std::memory_order_acq_rel) == 1) {
            delete counts;
        }
    }

    T* object_;
    share_counts* counts_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
