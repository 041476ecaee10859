// Libraries that write to sockets may change what the whole program does on SIGPIPE.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <csignal>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What the program does on SIGPIPE when this is made; as a base in front of the one
/// that changes it, or a local.
class pipe_action_kept {
public:
    pipe_action_kept() noexcept { ::sigaction(SIGPIPE, nullptr, &before_); }
    void put_back() const noexcept { ::sigaction(SIGPIPE, &before_, nullptr); }

private:
    struct sigaction before_ {};
};

/// On the calling thread none comes; writing fails instead.
inline void block_broken_pipes() noexcept {
    sigset_t pipes;
    sigemptyset(&pipes);
    sigaddset(&pipes, SIGPIPE);
    pthread_sigmask(SIG_BLOCK, &pipes, nullptr);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
