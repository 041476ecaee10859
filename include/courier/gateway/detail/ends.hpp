// Where what leaves comes from, and where what comes in goes.
#pragma once

#include <courier/recording/detail/payload_door.hpp> // IWYU pragma: export
#include <courier/recording/detail/sources.hpp>      // IWYU pragma: export
