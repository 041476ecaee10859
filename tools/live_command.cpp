// SPDX-License-Identifier: MIT
#include "live_command.hpp"

#include <csignal>

namespace tool {

namespace {
std::atomic<bool> is_over{false};
static_assert(std::atomic<bool>::is_always_lock_free);

void end(int) {
    is_over = true;
}
} // namespace

const std::atomic<bool>& told_to_end() {
    std::signal(SIGINT, end);
    std::signal(SIGHUP, end);
    std::signal(SIGTERM, end);
    return is_over;
}

} // namespace tool
