// Unloading a shared library whose handlers may still be subscribed.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

// Hidden, so that the program and every shared library has one of its own:
// its address tells them apart.
WIRED_COURIER_HIDDEN inline constinit char module_tag = 0;

[[nodiscard]] std::size_t count_of_module(const void* module) noexcept;
void end_of_module(const void* module, std::string_view name) noexcept;

} // namespace detail

/// How many live subscriptions of the calling program or shared library there
/// are, on channels of the calling thread.
[[nodiscard]] inline std::size_t subscriptions_of_this_module() noexcept {
    return detail::count_of_module(&detail::module_tag);
}

/// Makes unloading a shared library safe: one namespace-scope object of it in
/// the library, declared after the library's own static subscribers. When the
/// library is unloaded while handlers of its code are still subscribed, these
/// subscriptions are reported (`fault_code::module_has_subscriptions`, one
/// fault that lists where each was made) and ended, instead of leaving calls
/// into code that is gone. Unload on the thread that the channels belong to:
/// those of other threads cannot be looked at from here.
///
/// The program and its shared libraries must share one copy of Wired Courier
/// (build it with BUILD_SHARED_LIBS=ON).
class module_guard {
public:
    /// `name` is for the report; a string literal, since it is read at unload.
    explicit module_guard(const char* name) noexcept : name_(name) {}
    module_guard(const module_guard&) = delete;
    module_guard& operator=(const module_guard&) = delete;
    ~module_guard() { detail::end_of_module(&detail::module_tag, name_); }

private:
    const char* name_;
};

WIRED_COURIER_NAMESPACE_END
