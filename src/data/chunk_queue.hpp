// Packed bytes on their way from the game's thread to one that writes them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <condition_variable>
#include <cstddef>
#include <deque>
#include <mutex>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

using chunk = std::vector<std::byte>;

/// About how large a chunk gets before it is handed over.
inline constexpr std::size_t usual_chunk = std::size_t{64} << 10;

/// A bounded queue between two threads. Chunks that are done with are used again.
class chunk_queue {
public:
    /// `most`: bytes that may wait, about.
    explicit chunk_queue(std::size_t most) : most_(most) {}

    /// Gives a chunk and gets an empty one; false, and nothing is taken, when there is
    /// no room and `wait` is false.
    bool give(chunk& full, bool wait);
    /// The next one, waited for; false when there is none and no more will come.
    bool take(chunk& next);
    /// The same, not waited for.
    bool take_now(chunk& next);
    /// What was taken is written.
    void done(chunk&& written);
    void wait_until_done();
    /// No more will come.
    void end();
    /// Bytes that are not written yet.
    [[nodiscard]] std::size_t waiting() const;

private:
    std::size_t most_;
    mutable std::mutex guard_;
    std::condition_variable something_;
    std::condition_variable room_;
    std::deque<chunk> queue_;
    std::vector<chunk> spare_;
    std::size_t waiting_ = 0; ///< bytes that are not written yet
    bool ending_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
