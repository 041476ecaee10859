// What may do anything, and so must not run in the middle of something.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What is held back on this thread while `holds` is not 0, and carried out
/// when that is over. Who has such work sets its place, and looks at `holds`
/// before it begins.
struct held_back {
    using work = void (*)();

    std::uint32_t holds = 0;
    work refreshers = nullptr; ///< what follows from changed values
    work sequences = nullptr;  ///< those that may go on; after the former
};

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit held_back this_hold;

/// Carries out what was held back. What it throws is reported as a lost failure.
void carry_out_held_back() noexcept;

/// Holds everything back for a while.
class hold_all_back {
public:
    hold_all_back() noexcept { ++this_hold.holds; }
    hold_all_back(const hold_all_back&) = delete;
    hold_all_back& operator=(const hold_all_back&) = delete;
    ~hold_all_back() {
        --this_hold.holds;
        carry_out_held_back();
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
