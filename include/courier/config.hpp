// Build options as the compiler sees them, and the namespace that encodes them.
// SPDX-License-Identifier: MIT
#pragma once

// A language before C++20 is said here in one line, instead of in hundreds below.
#if defined(__cplusplus) && __cplusplus < 202002L && !defined(_MSVC_LANG)
#error "courier: Wired Courier needs C++20: compile with -std=c++20, or target_compile_features(... cxx_std_20)"
#include <courier/needs_cxx20> // so that the compiler stops here
#endif

#define WIRED_COURIER_VERSION_MAJOR 0
#define WIRED_COURIER_VERSION_MINOR 1
#define WIRED_COURIER_VERSION_PATCH 0
#define WIRED_COURIER_VERSION "0.1.0"

// 1 in checked builds: use from a foreign thread, clashing stages, a handler
// subscribed twice and two copies of the library are reported as faults. The
// CMake target and the pkg-config file hand the library's own choice on.
#ifndef WIRED_COURIER_CHECKED
#define WIRED_COURIER_CHECKED 0
#endif

// 0 compiles ledgers out: none can be attached to anything, and publishing has
// no trace of them. As above, the target hands the library's own choice on.
#ifndef WIRED_COURIER_LEDGER
#define WIRED_COURIER_LEDGER 1
#endif

// Follows the compiler's own setting; not to be set by hand.
#if defined(__cpp_exceptions)
#define WIRED_COURIER_EXCEPTIONS 1
#else
#define WIRED_COURIER_EXCEPTIONS 0
#endif

// Code built with another version or other options than the library fails to link instead of
// misbehaving at run time: major and minor number, and a digit for the options. Short, since it
// stands in every message of a compiler.
#if WIRED_COURIER_CHECKED && WIRED_COURIER_LEDGER && WIRED_COURIER_EXCEPTIONS
#define WIRED_COURIER_OPTIONS 7
#elif WIRED_COURIER_CHECKED && WIRED_COURIER_LEDGER
#define WIRED_COURIER_OPTIONS 6
#elif WIRED_COURIER_CHECKED && WIRED_COURIER_EXCEPTIONS
#define WIRED_COURIER_OPTIONS 5
#elif WIRED_COURIER_CHECKED
#define WIRED_COURIER_OPTIONS 4
#elif WIRED_COURIER_LEDGER && WIRED_COURIER_EXCEPTIONS
#define WIRED_COURIER_OPTIONS 3
#elif WIRED_COURIER_LEDGER
#define WIRED_COURIER_OPTIONS 2
#elif WIRED_COURIER_EXCEPTIONS
#define WIRED_COURIER_OPTIONS 1
#else
#define WIRED_COURIER_OPTIONS 0
#endif
#define WIRED_COURIER_ABI_OF(major, minor, options) v##major##_##minor##_##options
#define WIRED_COURIER_ABI_OF_ALL(major, minor, options) WIRED_COURIER_ABI_OF(major, minor, options)
#define WIRED_COURIER_ABI                                                                                              \
    WIRED_COURIER_ABI_OF_ALL(WIRED_COURIER_VERSION_MAJOR, WIRED_COURIER_VERSION_MINOR, WIRED_COURIER_OPTIONS)

// Around everything of the library. Macros of their own lines, not one in the
// middle of a namespace's name, so that editors' indexers read the rest.
#define WIRED_COURIER_NAMESPACE_BEGIN                                                                                  \
    namespace courier {                                                                                                \
    inline namespace WIRED_COURIER_ABI {
#define WIRED_COURIER_NAMESPACE_END                                                                                    \
    }                                                                                                                  \
    }

// For variables of which every shared library has its own, so that it can be unloaded: one that the whole process
// shares would pin it. On Windows each has its own anyway.
#if defined(__GNUC__) && !defined(_WIN32)
#define WIRED_COURIER_HIDDEN __attribute__((visibility("hidden")))
#else
#define WIRED_COURIER_HIDDEN
#endif

WIRED_COURIER_NAMESPACE_BEGIN

/// True in checked builds.
inline constexpr bool checked_build = WIRED_COURIER_CHECKED != 0;

/// False when ledgers are compiled out.
inline constexpr bool ledger_built_in = WIRED_COURIER_LEDGER != 0;

WIRED_COURIER_NAMESPACE_END
