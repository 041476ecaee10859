// The readers that there may be at a time.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <map>
#include <mutex>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Of all together, and of one address, so that no machine takes every place. For any thread.
class reader_slots {
public:
    reader_slots(std::size_t of_all, std::size_t of_each) noexcept : of_all_(of_all), of_each_(of_each) {}

    /// Takes a place for a reader at `address`; false when there is none.
    bool take(const std::string& address) {
        const std::lock_guard lock(mutex_);
        if (taken_ >= of_all_) {
            return false;
        }
        std::size_t& own = at_[address];
        if (own >= of_each_) { // at least one is there, so the entry was
            return false;
        }
        ++own;
        ++taken_;
        return true;
    }

    /// Gives back the place of a reader at `address`.
    void give_back(const std::string& address) {
        const std::lock_guard lock(mutex_);
        if (const auto own = at_.find(address); --own->second == 0) {
            at_.erase(own);
        }
        --taken_;
    }

    [[nodiscard]] std::size_t taken() const {
        const std::lock_guard lock(mutex_);
        return taken_;
    }

private:
    const std::size_t of_all_;
    const std::size_t of_each_;
    mutable std::mutex mutex_;
    std::map<std::string, std::size_t> at_;
    std::size_t taken_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
