// What commands have in common that go on until they are stopped.
// SPDX-License-Identifier: MIT
#pragma once

#include <atomic>

namespace tool {

/// True once the program has been told to end (SIGINT, SIGTERM, SIGHUP); made so by the first call.
const std::atomic<bool>& told_to_end();

} // namespace tool
