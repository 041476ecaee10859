// An object for each thread, which ends with its thread.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if defined(__MINGW32__)
/// Calls `end(object)` when this thread ends.
void when_this_thread_ends(void (*end)(void* object), void* object);

// Threads of MinGW free the memory of thread_local objects before they destroy them.
template <class T>
T& of_this_thread() {
    static constinit thread_local T* it = nullptr;
    if (it == nullptr) {
        it = new T();
        when_this_thread_ends(
            [](void* object) {
                delete static_cast<T*>(object);
                it = nullptr;
            },
            it);
    }
    return *it;
}
#else
/// Made when it is first asked for.
template <class T>
T& of_this_thread() {
    static thread_local T it;
    return it;
}
#endif

} // namespace detail
WIRED_COURIER_NAMESPACE_END
