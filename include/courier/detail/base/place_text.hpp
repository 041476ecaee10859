// A place in the code, as messages write it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <source_location>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// "file.cpp:12", as every message of the library writes a place.
std::string place(std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
