// Work that waits until the event that is being handled is over.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/oversight.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A member of whoever has such work. Done once, when the outermost publish on
/// this thread has served everybody; what it throws is thrown by that publish.
/// Its end withdraws it.
class put_off {
public:
    using work = void (*)(void* whose);

    put_off(work what, void* whose) noexcept : what_(what), whose_(whose) {}
    put_off(const put_off&) = delete;
    put_off& operator=(const put_off&) = delete;
    ~put_off() { withdraw(); }

    /// Whether a publish is in flight.
    [[nodiscard]] static bool has_to_wait() noexcept;

    /// False when no publish is in flight; then nothing is put off. Asking
    /// twice is asking once.
    bool ask() noexcept;
    void withdraw() noexcept;

private:
    friend void carry_out_what_was_put_off();

    work what_;
    void* whose_;
    put_off* next_ = nullptr;
    put_off** back_ = nullptr; ///< what points to this one; null: not asked
    origin by_;                ///< what it follows from
};

/// Called when the outermost publish is over.
void carry_out_what_was_put_off();

} // namespace detail
WIRED_COURIER_NAMESPACE_END
