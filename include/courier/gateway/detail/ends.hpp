// Where what leaves comes from, and where what comes in goes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/data/detail/payload_door.hpp> // IWYU pragma: export
#include <courier/data/detail/sources.hpp>      // IWYU pragma: export
