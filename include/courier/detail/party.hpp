// What subscriptions know of the subscriber that owns them.
#pragma once

#include <courier/detail/slot.hpp>

#include <cstddef>
#include <cstdint>
#include <string>

namespace courier::inline WIRED_COURIER_ABI::detail {

struct party {
    slot* first = nullptr;
    std::size_t count = 0;
    std::string name;
    std::uint32_t refs = 1; ///< the subscriber, stop notes, and its slots that wait to be freed
    bool paused = false;
    std::uint32_t ledger = 0; ///< that has a number for it; 0: none
    std::uint32_t number = 0;
};

inline void retain(party* p) noexcept {
    if (p != nullptr) {
        ++p->refs;
    }
}

inline void release(party* p) noexcept {
    if (p != nullptr && --p->refs == 0) {
        delete p;
    }
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
