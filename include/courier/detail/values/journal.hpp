// Changes of items that are still to be announced.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>

#include <cstddef>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Entry>
class journal {
public:
    journal() = default;
    journal(const journal&) = delete;
    journal& operator=(const journal&) = delete;
    ~journal() {
        if (gone_ != nullptr) {
            *gone_ = true;
        }
    }

    std::vector<owned<Entry>> waiting;

    /// So that one more needs no memory.
    void make_room() { reserve_by_halves(waiting, waiting.size() + 1); }

    /// Calls `tell` for each that waits; what it brings about waits for the next
    /// time. It may throw, or destroy this journal, which ends it.
    template <class Tell>
    void announce(Tell tell) {
        bool gone = false;
        gone_ = &gone;
        now_.swap(waiting);
        first_failure failed;
        for (std::size_t i = 0; !gone && i < now_.size(); ++i) {
            const owned<Entry> one = std::move(now_[i]);
            failed.run([&] { tell(*one); });
        }
        if (!gone) {
            gone_ = nullptr;
            now_.clear();
        }
        failed.rethrow();
    }

private:
    std::vector<owned<Entry>> now_; ///< being announced
    bool* gone_ = nullptr;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
