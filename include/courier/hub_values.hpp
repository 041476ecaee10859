// Lets hubs have states, formulas and lists; see hub::value().
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/values/value_port.hpp> // IWYU pragma: export
#include <courier/hub.hpp>                      // IWYU pragma: export
#include <courier/state.hpp>                    // IWYU pragma: export
