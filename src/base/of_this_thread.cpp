// SPDX-License-Identifier: MIT
#include "of_this_thread.hpp"

#if defined(__MINGW32__)

#include <utility>

// Of the system's, which does not need all of its headers: what is kept in such a place is handed to its function when
// a thread ends.
extern "C" {
__declspec(dllimport) unsigned long __stdcall FlsAlloc(void(__stdcall* ends)(void*));
__declspec(dllimport) void* __stdcall FlsGetValue(unsigned long place);
__declspec(dllimport) int __stdcall FlsSetValue(unsigned long place, void* value);
}

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {
namespace {

struct to_end {
    void (*end)(void*);
    void* object;
    to_end* before;
};

void __stdcall end_all(void* newest) {
    for (auto* one = static_cast<to_end*>(newest); one != nullptr; delete std::exchange(one, one->before)) {
        one->end(one->object);
    }
}

} // namespace

void when_this_thread_ends(void (*end)(void* object), void* object) {
    static const unsigned long place = FlsAlloc(&end_all);
    FlsSetValue(place, new to_end{end, object, static_cast<to_end*>(FlsGetValue(place))});
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END

#endif
